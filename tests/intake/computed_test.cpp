// Columns that are computed, rows that are skipped or left out, several systems in one table, repeated
// orders.
#include <map>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "support/importing.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

const std::string kExportHeader = "no,day,who,what,pieces,price,discount,kind\n";
const std::string kExportColumns =
    "[lines.columns]\norder_id = \"no\"\norder_date = \"day\"\ncustomer_id = \"who\"\nproduct_id = \"what\"\n"
    "quantity = \"pieces\"\nunit_price = \"price\"\n";

class Computed : public testing::Test {
 protected:
  ImportRun import(const std::string& rows, const std::string& rest) {
    folder_.write("s.csv", kExportHeader + rows);
    return import_intake(folder_, "[lines]\nfile = \"s.csv\"\n" + rest);
  }
  const TemporaryFolder folder_;
};

std::string amounts(const ImportRun& run) { return column_text(run.imported->built.daybook, "amount"); }

TEST_F(Computed, AnAmountFromTextsAndNumbers) {
  const ImportRun run = import("A1,2024-01-05,C1,P1,2,10.00,0.1,\nA2,2024-01-06,C1,P1,3,4.00,0,\n",
                               kExportColumns +
                                   "[lines.compute]\namount = \"quantity * unit_price * (1 - CAST(discount "
                                   "AS NUMERIC))\"\n");
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(amounts(run), "line 18 12");
  EXPECT_EQ(run.imported->sources.front().sums.read.total()->to_text(2), "30.00");
}

/// Rows that cannot be computed are rejected with the value that explains it, and every amount is accounted
/// for.
TEST_F(Computed, RowsWithoutAResultAreRejected) {
  const ImportRun run = import(
      "A1,2024-01-05,C1,P1,2,10.00,none,\nA2,2024-01-06,C1,P1,3,4.00,0.5,\n"
      "A3,2024-01-06,C1,P1,0,4.00,,\n",
      kExportColumns +
          "[lines.compute]\nunit_price = \"unit_price * (1 - CAST(discount AS "
          "NUMERIC))\"\nper_piece = \"10 / quantity\"\n");
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(amounts(run), "line 6");
  ASSERT_EQ(run.rejected.size(), 2U);
  EXPECT_EQ(
      run.rejected[0].column + " " + run.rejected[0].value + " " + run.rejected[0].reason,
      "discount none gives no unit_price, which is computed as unit_price * (1 - CAST(discount AS NUMERIC))");
  EXPECT_EQ(run.rejected[1].value, "");
  const intake::SourceAccount& source = run.imported->sources.front();
  EXPECT_EQ(source.record.rows_read, source.record.rows_kept + source.record.rows_rejected);
  EXPECT_EQ(column_text(run.imported->built.daybook, "per_piece"), "customer 3.3333");
}

TEST_F(Computed, IdsAreJoinedAndDatesAreCast) {
  const ImportRun run = import("1,2024-01-05,C1,P1,2,10.00,,x\n2,2024-01-06,C1,P1,3,4.00,,y\n",
                               kExportColumns +
                                   "[lines.compute]\norder_date = \"CAST('2024-02-0' || order_id AS "
                                   "DATE)\"\norder_id = \"kind || '-' || order_id\"\n");
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(column_text(run.imported->built.daybook, "order_date"), "order 2024-02-01 2024-02-02");
  EXPECT_EQ(run.imported->built.daybook.order_ids()[1], "y-2");
}

TEST_F(Computed, MistakesNameTheColumn) {
  const auto fault = [&](const std::string& compute) {
    return import("1,2024-01-05,C1,P1,2,10.00,,x\n", kExportColumns + "[lines.compute]\n" + compute + "\n")
        .fault;
  };
  EXPECT_EQ(fault("amount = \"quantity * discount\""),
            "[lines.compute] amount: arithmetic needs a number, but \"discount\" is text; if its texts are "
            "numbers, "
            "write CAST(discount AS NUMERIC) (column 12)");
  EXPECT_EQ(fault("quantity = \"kind\""),
            "[lines.compute] quantity: it must be a number, but \"kind\" is text; CAST(... AS NUMERIC) makes "
            "one of "
            "a text.");
  EXPECT_EQ(fault("big = \"quantity > 1\"").substr(0, 60),
            "[lines.compute] big: a column contains texts, numbers or dat");
  EXPECT_EQ(fault("year = \"quantity\""),
            "shop.toml, line 11: [lines.compute] year: this name is reserved; choose another.");
}

TEST_F(Computed, RowsAreSkippedByACondition) {
  const ImportRun run =
      import("A1,2024-01-05,C1,P1,2,10.00,,\n,,,carried over,9,99.00,,\nA2,2024-01-06,C1,P1,3,4,,\n",
             "skip_if = \"order_id IS NULL AND product_id LIKE 'carried%'\"\n" + kExportColumns);
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(amounts(run), "line 20 12");
  EXPECT_TRUE(run.rejected.empty());
  EXPECT_EQ(run.imported->sources.front().record.rows_read, 2U);
  EXPECT_EQ(import("A1,2024-01-05,C1,P1,2,10.00,,\n", "skip_if = \"kinds = 'x'\"\n" + kExportColumns).fault,
            "[lines] skip_if: there is no column \"kinds\". Did you mean \"kind\"? (column 1)");
}

TEST_F(Computed, ExcludedLinesAreCountedSeparately) {
  const ImportRun run =
      import("A1,2024-01-05,C1,P1,2,10.00,,\nA2,2024-01-06,TEST,P1,3,4.00,,\nA3,2024-01-07,C2,P1,0,1,,\n",
             kExportColumns +
                 "[[exclude]]\ncondition = \"customer_id = 'TEST'\"\nreason = \"test "
                 "customer\"\n[[require]]\ncondition = \"quantity <> 0\"\n");
  ASSERT_TRUE(run.imported) << run.fault;
  const intake::SourceAccount& source = run.imported->sources.front();
  EXPECT_EQ(source.record.rows_excluded, 1U);
  EXPECT_EQ(source.record.rows_rejected, 1U);
  EXPECT_EQ(source.excluded_amount.total()->to_text(2), "12.00");
  ASSERT_EQ(run.imported->excluded.size(), 1U);
  EXPECT_EQ(run.imported->excluded[0].reason, "test customer");
  EXPECT_EQ(import("A1,2024-01-05,C1,P1,2,10.00,,\n",
                   kExportColumns + "[[exclude]]\ncondition = \"quantity = 2\"\nreason = "
                                    "\"all\"\n")
                .fault,
            "[[exclude]] \"quantity = 2\" leaves out every line.");
}

TEST_F(Computed, ReturnsMayKeepTheirSign) {
  const std::string returns = kExportColumns + "[returns]\ncondition = \"kind = 'credit'\"\nsign = ";
  const std::string rows = "A1,2024-01-05,C1,P1,2,10.00,,\nA2,2024-01-06,C1,P1,1,4.00,,credit\n";
  EXPECT_EQ(amounts(import(rows, returns + "\"turn\"\n")), "line 20 -4");
  EXPECT_EQ(amounts(import(rows, returns + "\"keep\"\n")), "line 20 4");
  EXPECT_EQ(import(rows, returns + "\"other\"\n").fault,
            "shop.toml, line 12: [returns] sign: \"other\" is not \"turn\" or \"keep\".");
}

/// Each system has its own columns, formats and computations; the rows are those of all systems.
TEST(SeveralSystems, AreOneTable) {
  const TemporaryFolder folder;
  folder.write(
      "a.csv",
      "order_id,order_date,customer_id,product_id,quantity,unit_price,note\nA1,2024-01-05,C1,P1,2,1.5,x\n");
  folder.write("b.csv", "Bon;Tag;Wer;Was;Stk;Ges\n7;06.01.2024;C2;P1;2;5,00\n8;07.01.2024;C1;P2;1;3,20\n");
  const ImportRun run = import_intake(folder, R"([lines]
[[lines.from]]
file = "a.csv"
[[lines.from]]
file = "b.csv"
date_format = "%d.%m.%Y"
decimal = ","
[lines.from.columns]
order_id = "Bon"
order_date = "Tag"
customer_id = "Wer"
product_id = "Was"
quantity = "Stk"
amount = "Ges"
[lines.from.compute]
unit_price = "amount / quantity"
)");
  ASSERT_TRUE(run.imported) << run.fault;
  const daybook::Daybook& daybook = run.imported->built.daybook;
  EXPECT_EQ(column_text(daybook, "order_date"), "order 2024-01-05 2024-01-07 2024-01-06");
  EXPECT_EQ(column_text(daybook, "amount"), "line 3 3.2 5");
  EXPECT_EQ(column_text(daybook, "unit_price"), "line 1.5 3.2 2.5");
  EXPECT_EQ(column_text(daybook, "note"), "order x  ");
}

/// One system exports orders separately, the other everything in one file.
TEST(SeveralSystems, OnlyOneOfWhichHasATableOfOrders) {
  const TemporaryFolder folder;
  folder.write("a.csv", "order_id,product_id,quantity,unit_price\nA1,P1,2,1.5\nA9,P1,2,1.5\n");
  folder.write("o.csv", "order_id,order_date,customer_id\nA1,2024-01-05,C1\n");
  folder.write("b.csv",
               "order_id,order_date,customer_id,product_id,quantity,unit_price\nB1,2024-01-06,C2,P1,1,2\n");
  const ImportRun run = import_intake(folder,
                                      "[lines]\n[[lines.from]]\nfile = \"a.csv\"\n[[lines.from]]\nfile = "
                                      "\"b.csv\"\n[orders]\nfile = \"o.csv\"\n");
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(column_text(run.imported->built.daybook, "order_date"), "order 2024-01-05 2024-01-06");
  ASSERT_EQ(run.rejected.size(), 1U);
  EXPECT_EQ(run.rejected[0].value, "A9");
}

/// An order whose customer was corrected, where order ids are unique; and where every customer has an
/// order 1.
TEST(RepeatedOrders, ACorrectedCustomerReplacesTheOther) {
  const TemporaryFolder folder;
  const std::string header = "order_id,order_date,customer_id,product_id,quantity,unit_price\n";
  const auto customers = [&](const std::string& october, const std::string& november) {
    folder.write("10.csv", header + october);
    folder.write("11.csv", header + november);
    const ImportRun run =
        import_intake(folder, "[lines]\nfile = [\"10.csv\", \"11.csv\"]\non_repeat = \"replace orders\"\n");
    std::string ids;
    for (std::size_t i = 0; i < run.imported->built.daybook.customer_ids().size(); ++i)
      ids += std::string(run.imported->built.daybook.customer_ids()[i]) + " ";
    return ids;
  };
  EXPECT_EQ(customers("1,2024-10-01,C1,P1,1,1\n2,2024-10-01,C3,P1,1,1\n", "1,2024-10-01,C2,P1,1,1\n"),
            "C2 C3 ");
  EXPECT_EQ(customers("1,2024-10-01,C1,P1,1,1\n1,2024-10-01,C3,P1,1,1\n", "1,2024-10-01,C2,P1,1,1\n"),
            "C1 C2 C3 ");
}

/// Random exports, in which later files repeat orders: what counts is the last file that has an order.
RC_GTEST_PROP(RepeatedOrders, TheLastFileCounts, ()) {
  const TemporaryFolder folder;
  std::map<std::string, std::string> last;  // by order, its lines in the daybook
  std::string files;
  const std::string header = "order_id,order_date,customer_id,product_id,quantity,unit_price\n";
  const int months = pick(2, 4);
  for (int month = 0; month < months; ++month) {
    std::map<std::string, std::string> orders;
    for (int order = pick(1, 6); order > 0; --order) {
      const std::string id = fmt::format("A{}", pick(0, 6));
      std::string& lines = orders[id];
      lines += fmt::format("{0},2024-01-05,{1},P{2},{3},1\n", id, pick(0, 3) == 0 ? "c1 " : "C1", pick(0, 3),
                           pick(1, 9));
    }
    std::string text = header;
    for (const auto& [id, lines] : orders) {
      text += lines;
      last[id] = lines;
    }
    const std::string name = fmt::format("m{}.csv", month);
    folder.write(name, text);
    files += fmt::format("{}\"{}\"", files.empty() ? "" : ", ", name);
  }
  std::string whole = header;
  for (const auto& [id, lines] : last) whole += lines;
  folder.write("whole.csv", whole);
  const std::string cleaning = "trim = true\nfold_case = [\"customer_id\"]\n";
  const ImportRun found = import_intake(
      folder, fmt::format("[lines]\nfile = [{}]\non_repeat = \"replace orders\"\n{}", files, cleaning));
  const ImportRun expected = import_intake(folder, "[lines]\nfile = \"whole.csv\"\n" + cleaning);
  RC_ASSERT(found.imported.has_value() && expected.imported.has_value());
  // The spelling that most rows have may be that of rows that were replaced.
  const auto quantities = [](const ImportRun& run) {
    return column_text(run.imported->built.daybook, "quantity");
  };
  RC_ASSERT(quantities(found) == quantities(expected));
  RC_ASSERT(column_text(found.imported->built.daybook, "product_id") ==
            column_text(expected.imported->built.daybook, "product_id"));
}

/// What was paid for a line is enough: the price of a piece follows from it, also for returns and for
/// nothing.
TEST(MissingPrice, FollowsFromTheAmount) {
  const ImportRun run = import_text(
      "order_id,order_date,customer_id,product_id,quantity,amount\nA1,2024-01-05,C1,P1,4,10.00\n"
      "A2,2024-01-06,C1,P2,-2,-5.00\nA3,2024-01-07,C1,P3,0,1.50\n");
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(amounts(run), "line 10 -5 1.5");
  EXPECT_EQ(column_text(run.imported->built.daybook, "unit_price"), "line 2.5 2.5 1.5");
  EXPECT_EQ(run.imported->notes.front(), "There is no column of prices: unit_price is amount / quantity.");
  EXPECT_TRUE(run.rejected.empty());
}

}  // namespace
}  // namespace pear::test
