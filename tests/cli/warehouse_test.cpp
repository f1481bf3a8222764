// Questions asked of a database by an intake file: the same files as those of the daybook, and what is
// refused.
#include <cstdlib>
#include <string>
#include <vector>

#include <absl/strings/str_replace.h>
#include <gtest/gtest.h>
#include <soci/soci.h>

#include "database/connection.hpp"
#include "support/demo_program.hpp"

namespace pear::test {
namespace {

/// The demo shop's cleaned lines in shop.db, as one table and as four.
class WarehouseProgram : public DemoProgram<WarehouseProgram> {
 protected:
  static void SetUpTestSuite() {
    DemoProgram::SetUpTestSuite();
    ASSERT_EQ(
        run_pear(*folder_, {"export", "d/thistledown.daybook", "--into", "sqlite:///shop.db?table=sales"})
            .exit_code,
        0);
    execute(
        {"CREATE TABLE order_lines AS SELECT order_id, product_id, quantity, unit_price, amount FROM sales",
         "CREATE TABLE order_heads AS SELECT DISTINCT order_id AS number, order_date AS placed, customer_id "
         "AS buyer, channel FROM sales",
         "CREATE TABLE articles AS SELECT DISTINCT product_id, product_name, category, unit_cost, list_price "
         "FROM sales",
         "CREATE TABLE people AS SELECT DISTINCT customer_id, customer_name, region FROM sales"});
    folder_->write("tables.toml", R"([shop]
name = "Thistledown & Reel"
currency = "EUR"
[lines]
database = "sqlite:///shop.db"
table = "order_lines"
[orders]
database = "sqlite:///shop.db"
table = "order_heads"
[orders.columns]
order_id = "number"
order_date = "placed"
customer_id = "buyer"
[products]
database = "sqlite:///shop.db"
table = "articles"
[customers]
database = "sqlite:///shop.db"
table = "people"
)");
  }

  static void execute(const std::vector<std::string>& statements) {
    const auto session = *database::connect({database::DatabaseKind::sqlite, *folder_ / "shop.db", ""}, true);
    for (const std::string& statement : statements) *session << statement;
  }

  static ProgramRun ask(std::vector<std::string> words) {
    words.emplace_back("--figure");
    words.emplace_back("none");
    return run_pear(*folder_, words);
  }

  /// What the program says of an intake file with these lines added to [lines], and of these sections.
  static std::string fault(const std::string& lines, const std::string& sections = "",
                           const std::vector<std::string>& question = {"concentration"}) {
    folder_->write("faulty.toml", "[lines]\ndatabase = \"sqlite:///shop.db\"\ntable = \"sales\"\n" + lines +
                                      "\n" + sections);
    std::vector<std::string> words = question;
    words.insert(words.begin() + 1, "faulty.toml");
    const ProgramRun run = ask(words);
    return std::to_string(run.exit_code) + ": " +
           absl::StrReplaceAll(run.err, {{"pear-thread: error: ", ""}, {"\n", ""}});
  }
};

TEST_F(WarehouseProgram, WritesTheFilesOfTheDaybook) {
  const std::vector<std::vector<std::string>> questions = {
      {"concentration", "--per", "product_id", "--by", "region"},
      {"crosstab", "--down", "region", "--across", "year", "--count",
       "sum(margin) as margin, customers, median(amount) as middle"},
      {"distinct", "--count", "customer_id", "--per", "category", "--list", "--where", "channel = 'web'"},
      {"frequency", "--within", "90", "--by", "region"},
      {"frequency", "--list", "--horizon", "30"},
      {"retention", "--cohort", "region", "--period", "quarter"}};
  for (const auto& question : questions) {
    std::vector<std::string> of_daybook = question, of_database = question;
    of_daybook.insert(of_daybook.begin() + 1, {"d/thistledown.daybook", "--out", "daybk"});
    of_database.insert(of_database.begin() + 1, {"tables.toml", "--out", "datab"});
    const ProgramRun ours = ask(of_daybook), theirs = ask(of_database);
    EXPECT_EQ(theirs.exit_code, 0) << theirs.err;
    EXPECT_EQ(absl::StrReplaceAll(theirs.out, {{"tables.toml", "thistledown.daybook"}, {"datab/", "daybk/"}}),
              ours.out);
    std::size_t files = 0;
    for (const auto& entry : std::filesystem::directory_iterator(path("daybk"))) {
      const std::string name = entry.path().filename().string();
      if (!name.starts_with(question.front()) || entry.path().extension() != ".csv") continue;
      EXPECT_TRUE(read_file(path("datab/" + name)) == read_file(path("daybk/" + name))) << name;
      ++files;
    }
    EXPECT_GE(files, 1U);
  }
  EXPECT_NE(read_file(path("datab/datapackage.json")).find("answered in shop.db"), std::string::npos);
}

TEST_F(WarehouseProgram, ExplainsWithoutAnAnswer) {
  const std::string before = read_file(path("shop.db"));
  const ProgramRun run = ask({"frequency", "tables.toml", "--explain", "--out", "nowhere"});
  EXPECT_EQ(run.exit_code, 0) << run.err;
  EXPECT_EQ(run.out.find("-- None of these statements was run."), 0U);
  EXPECT_NE(run.out.find("\n-- Statement 1 of "), std::string::npos);
  EXPECT_NE(run.out.find("LEFT JOIN (SELECT * FROM \"order_heads\")"), std::string::npos);
  EXPECT_FALSE(std::filesystem::exists(path("nowhere")));
  EXPECT_TRUE(read_file(path("shop.db")) == before);
  EXPECT_NE(ask({"frequency", "d/thistledown.daybook", "--explain"})
                .err.find("--explain shows what a database is asked"),
            std::string::npos);
}

TEST_F(WarehouseProgram, RefusesWhatNeedsTheRows) {
  const std::string remedy =
      " needs the rows on this side, so the database cannot answer. Do this in a view of the database, or "
      "import the file.";
  EXPECT_EQ(fault("trim = true"), "2: faulty.toml: trim" + remedy);
  EXPECT_EQ(fault("empty_as = [\"-\"]"), "2: faulty.toml: empty_as" + remedy);
  EXPECT_EQ(fault("", "[returns]\ncondition = \"channel = 'web'\""),
            "2: faulty.toml: [returns] without sign = \"keep\"" + remedy);
  EXPECT_EQ(
      fault("", "", {"offers"})
          .find("2: offers needs the lines themselves, so a database does not answer it. Import faulty.toml"),
      0U);
  EXPECT_EQ(fault("", "", {"frequency", "--save-as", "saved.toml"}),
            "2: --save-as: a study asks a daybook, and faulty.toml names a database. Import it first.");
  EXPECT_EQ(fault("", "", {"customer", "C101"}).find("2: customer needs the lines themselves"), 0U);
  EXPECT_EQ(
      fault("", "", {"sequence", "--repeats", "only"}),
      "2: --repeats: a database counts what customers buy after what, each product at its first purchase. "
      "Anything longer needs the histories: import the lines, or a sample of customers (--customers 1/50), "
      "and "
      "ask the daybook.");
  EXPECT_EQ(fault("", "", {"crosstab", "--down", "region", "--count", "stddev_samp(amount)"})
                .find("2: a database does not compute STDDEV"),
            0U);
  EXPECT_EQ(fault("", "", {"crosstab", "--down", "order_number"}),
            "2: a database does not compute \"order_number\". Use the daybook of an import, or a column of a "
            "view.");
  EXPECT_EQ(fault("", "", {"concentration", "--per", "regio"}).find("2: --per: there is no column \"regio\""),
            0U);
}

/// SQLite does not know the SQL of the standard, and its driver does not disconnect within a transaction.
TEST_F(WarehouseProgram, RefusesSystemsWithoutTheStandard) {
  if (std::system("odbcinst -q -d -n SQLite3 >/dev/null 2>&1") != 0)
    GTEST_SKIP() << "no ODBC driver named SQLite3 is installed";
  folder_->write("odbc.toml", "[lines]\ndatabase = \"odbc:Driver=SQLite3;Database=" + path("shop.db") +
                                  "\"\ntable = \"sales\"\n");
  const ProgramRun run = ask({"frequency", "odbc.toml"});
  EXPECT_EQ(run.exit_code, 4);
  EXPECT_NE(run.err.find("Questions by ODBC need a system that knows the SQL of the standard."),
            std::string::npos)
      << run.err;
}

TEST_F(WarehouseProgram, NotesOrdersOfTwoDates) {
  execute({"CREATE TABLE moved AS SELECT * FROM sales",
           "UPDATE moved SET order_date = date(order_date, '+2 days') WHERE rowid IN (SELECT MAX(rowid) FROM "
           "moved WHERE "
           "order_id IN ('A10029', 'A10107') GROUP BY order_id)"});
  folder_->write("moved.toml", "[lines]\ndatabase = \"sqlite:///shop.db\"\ntable = \"moved\"\n");
  EXPECT_NE(ask({"first", "moved.toml"}).out.find("2 orders have lines of different dates"),
            std::string::npos);
  EXPECT_EQ(ask({"first", "tables.toml"}).out.find("different dates"), std::string::npos);
}

TEST_F(WarehouseProgram, RefusesKeysThatOccurTwice) {
  execute(
      {"CREATE TABLE people_twice AS SELECT customer_id, region FROM people UNION ALL SELECT customer_id, "
       "'X' FROM people LIMIT 2000"});
  const std::string table = "\n[customers]\ndatabase = \"sqlite:///shop.db\"\ntable = \"people_twice\"\n";
  EXPECT_EQ(fault("", table).find("3: faulty.toml, [customers]: customer_id \""), 0U);
  EXPECT_NE(fault("", table).find("has several rows, so its lines would be counted several times."),
            std::string::npos);
}

/// As in an import, rows that lack what each line has are no lines, and their number is reported.
TEST_F(WarehouseProgram, NotesRowsThatAreLeftOut) {
  execute(
      {"CREATE TABLE gaps AS SELECT order_id, order_date, customer_id, product_id, quantity, amount FROM "
       "sales",
       "UPDATE gaps SET customer_id = NULL WHERE rowid = 1", "UPDATE gaps SET order_id = '' WHERE rowid = 2",
       "UPDATE gaps SET order_date = '31.12.2024' WHERE rowid = 3",
       "UPDATE gaps SET amount = NULL WHERE rowid = 4"});
  folder_->write("gaps.toml", "[lines]\ndatabase = \"sqlite:///shop.db\"\ntable = \"gaps\"\n");
  const ProgramRun run = ask({"concentration", "gaps.toml"});
  EXPECT_NE(run.out.find("15,996 lines"), std::string::npos) << run.err;
  EXPECT_NE(
      absl::StrReplaceAll(run.out, {{"\n            ", " "}})
          .find(
              "4 rows are left out: they lack an id, a date, a quantity or an amount, or it cannot be read."),
      std::string::npos)
      << run.out;
  execute({"DELETE FROM gaps WHERE rowid > 4"});
  EXPECT_EQ(ask({"concentration", "gaps.toml"}).err,
            "pear-thread: error: gaps.toml: none of the 4 rows has ids, a date, a quantity and an amount.\n");
}

TEST_F(WarehouseProgram, MarksReturnsAndFeesByConditions) {
  const std::string sections =
      "[returns]\ncondition = \"channel = 'telephone'\"\nsign = \"keep\"\n[fees]\ncondition = \"category = "
      "'Dyeing'\"\n[levels]\nchannel = \"order\"\n";
  folder_->write("marked.toml",
                 "[lines]\ndatabase = \"sqlite:///shop.db\"\nquery = \"SELECT order_id, order_date, "
                 "customer_id, product_id, "
                 "quantity, unit_price, amount, channel, category FROM sales\"\n" +
                     sections);
  ASSERT_EQ(run_pear(*folder_, {"import", "marked.toml", "--daybook", "marked.daybook"}).exit_code, 0);
  for (const char* question : {"distinct", "frequency", "retention"}) {
    const ProgramRun ours = ask({question, "marked.daybook", "--out", "a"}),
                     theirs = ask({question, "marked.toml", "--out", "a"});
    EXPECT_EQ(absl::StrReplaceAll(theirs.out, {{"marked.toml", "marked.daybook"}}), ours.out) << theirs.err;
  }
}

}  // namespace
}  // namespace pear::test
