// Intake files: what they may contain, and how their mistakes are reported.
#include "intake/plan/intake_file.hpp"

#include <gtest/gtest.h>

#include "support/importing.hpp"

namespace pear::test {
namespace {

std::string fault(const std::string& text) {
  const auto plan = intake::parse_intake(text, "shop.toml");
  return plan ? "" : plan.error().message;
}

TEST(IntakeFile, ReportsMistakesWithLineKeyAndRemedy) {
  const std::string lines = "[lines]\nfile = \"a.csv\"\n";
  const std::vector<std::pair<std::string, std::string>> cases = {
      {"", "shop.toml has no table [lines], which names the source of the sales l"},
      {"[lines\n", "shop.toml, line 1: this is not valid "},
      {"[lnes]\nfile = \"a.csv\"\n",
       "shop.toml, line 1: an intake file has no key \"lnes\". Did you mean \"lines\"?"},
      {lines + "decmal = \",\"\n",
       "shop.toml, line 3: [lines] has no key \"decmal\". Did you mean \"decimal\"?"},
      {"[lines]\n", "shop.toml, line 1: [lines] file: give either file or database."},
      {lines + "database = \"x.db\"\n", "shop.toml, line 3: [lines] database: give either file or database."},
      {"[lines]\ndatabase = \"x.db\"\n",
       "shop.toml, line 2: [lines] database: give either query or table with it."},
      {"[lines]\ndatabase = \"postgresql://u:secret@h/d\"\ntable = \"t\"\n",
       "shop.toml, line 2: [lines] database: the address of the database contains a password or a token. "},
      {lines + "decimal = \"::\"\n", "shop.toml, line 3: [lines] decimal: expected one character."},
      {lines + "thousands = \".\"\n",
       "shop.toml, line 3: [lines] thousands: decimal and thousands are the same chara"},
      {lines + "encoding = \"EBCDIC\"\n",
       "shop.toml, line 3: [lines] encoding: \"EBCDIC\" is not a known encoding: UTF-8, UTF-16, UTF"},
      {lines + "sheet = [1, 2]\n", "shop.toml, line 3: [lines] sheet: expected one sheet."},
      {lines + "header_line = 0\n",
       "shop.toml, line 3: [lines] header_line: expected the number of the header's line, from 1."},
      {lines + "header_line = 1.5\n",
       "shop.toml, line 3: [lines] header_line: expected the number of the header's line"},
      {"[lines]\ndatabase = \"x.db\"\ntable = \"t\"\nsheet = \"S\"\n",
       "shop.toml, line 4: [lines] sheet: only a file has sheets."},
      {lines + "negative = \"red\"\n",
       "shop.toml, line 3: [lines] negative: \"red\" is not \"brackets\" or \"trailing minus\"."},
      {lines + "date_language = \"xx\"\n",
       "shop.toml, line 3: [lines] date_language: expected the code of a language, such as \"de\" or "
       "\"fr\"."},
      {lines + "on_repeat = \"skip\"\n",
       "shop.toml, line 3: [lines] on_repeat: \"skip\" is not \"add lines\" or \"replace orders\"."},
      {lines + "[lines.columns]\nquantity = [\"A\", \"B\"]\n",
       "shop.toml, line 4: [lines.columns] quantity: expected one column."},
      {lines + "[orders]\nfile = \"b.csv\"\n[joins]\nlines_to_orders = \" = x\"\n",
       "shop.toml, line 6: [joins] lines_to_orders: \" = x\" is neither a column nor \"column of lines = "
       "column of orders\"."},
      {lines + "file2 = 3\n", "shop.toml, line 3: [lines] has no key \"file2\"."},
      {lines + "empty_as = 3\n",
       "shop.toml, line 3: [lines] empty_as: expected a text in quotes, or several as"},
      {lines + "[lines.columns]\nmonth = \"M\"\n",
       "shop.toml, line 4: [lines.columns] month: this name is reserved; choose another."},
      {lines + "[joins]\nlines_to_orders = \"x\"\n",
       "shop.toml, line 4: [joins] lines_to_orders: there is no table [orders]."},
      {lines + "[[duplicates]]\nin = \"line\"\nsame = \"x\"\n",
       "shop.toml, line 4: [[duplicates]] in: \"line\" is not one of lines, orders, products, customers, "
       "prices. Did "
       "you mean \"lines\"?"},
      {lines + "[[duplicates]]\nkeep = \"first\"\n",
       "shop.toml, line 3: [[duplicates]] same: this key is missing: it says which values are equal in "
       "duplicate r"},
      {lines + "[[duplicates]]\nsame = \"x\"\nkeep = \"newest\"\n",
       "shop.toml, line 5: [[duplicates]] keep: \"newest\" is not \"first\", \"last\", \"first by ...\" or "
       "\"last by ...\"."},
      {lines + "[bands.b]\nfrom = \"quantity\"\nedges = [6, 1]\n",
       "shop.toml, line 5: [bands.b] edges: they must rise, and have at most four decimal place"},
      {lines + "[levels]\nregion = \"town\"\n",
       "shop.toml, line 4: [levels] region: the level must be one of \"line\", \"order\", \"customer\", "
       "\"prod"},
      {"[lines]\nfile = \"no-such-*.csv\"\n",
       "shop.toml, line 2: [lines] file: no file matches \"no-such-*.cs"}};
  for (const auto& [text, expected] : cases)
    EXPECT_EQ(fault(text).substr(0, expected.size()), expected) << text;
}

TEST(IntakeFile, ReadsEveryKeyOfASource) {
  const auto plan = intake::parse_intake(R"(
[shop]
name = "Thistledown"
currency = "EUR"
[[lines.from]]
file = ["in/a.xlsx?sheet=May", "/data/b.csv"]
sheet = "June"
header_line = 3
delimiter = ";"
encoding = "windows-1252"
date_format = ["%d.%m.%Y", "serial"]
date_language = "de"
decimal = ","
thousands = "\u2019"
strip = ["$", "US$", ""]
negative = ["brackets", "trailing minus"]
percent = true
trim = true
fold_case = "region"
empty_as = ["-", "n/a"]
skip_rows = "Total*"
skip_if = "Order is null"
columns = { order_id = "Order", quantity = "Qty" }
replace = { region = { "N" = "North", "S" = "South" } }
compute = { amount = "price * quantity", kind = "'web'" }
[[lines.from]]
database = "sqlite:///shop.db"
table = "sales lines"
trim = ["region"]
thousands = " "
[orders]
database = "shop.db"
query = "SELECT 1"
)",
                                         "home/shop.toml");
  ASSERT_TRUE(plan) << plan.error().message;
  EXPECT_EQ(plan->shop + " " + plan->currency, "Thistledown EUR");
  const auto& from = plan->table(intake::TableKind::lines)->from;
  ASSERT_EQ(from.size(), 2U);
  const intake::SourcePlan& first = from[0];
  ASSERT_EQ(first.sources.size(), 2U);
  EXPECT_EQ(first.sources[0].file + " " + first.sources[0].sheet, "home/in/a.xlsx May") << "its own sheet";
  EXPECT_EQ(first.sources[1].file + " " + first.sources[1].sheet, "/data/b.csv June");
  EXPECT_EQ(first.sources[1].header_line, 3U);
  EXPECT_EQ(first.sources[1].delimiter, ';');
  EXPECT_EQ(first.sources[1].encoding, sources::Encoding::windows_1252);
  EXPECT_EQ(first.dates.formats, (std::vector<std::string>{"%d.%m.%Y", "serial"}));
  EXPECT_EQ(first.dates.language, "de");
  EXPECT_EQ(first.numbers.decimal, ',');
  EXPECT_EQ(first.numbers.thousands, "'") << "any apostrophe";
  EXPECT_EQ(first.numbers.strip, (std::vector<std::string>{"US$", "$"})) << "longer words first";
  EXPECT_TRUE(first.numbers.brackets && first.numbers.trailing_minus && first.numbers.percent);
  EXPECT_TRUE(first.trim_all);
  EXPECT_EQ(first.fold_case, std::vector<std::string>{"region"});
  EXPECT_EQ(first.empty_as, (std::vector<std::string>{"-", "n/a"}));
  EXPECT_EQ(first.skip_rows, std::vector<std::string>{"Total*"});
  EXPECT_EQ(first.skip_if, "Order is null");
  EXPECT_EQ(first.columns,
            (std::vector<std::pair<std::string, std::string>>{{"order_id", "Order"}, {"quantity", "Qty"}}));
  EXPECT_EQ(first.replace.at("region"), (std::map<std::string, std::string>{{"N", "North"}, {"S", "South"}}));
  ASSERT_EQ(first.computed.size(), 2U);
  EXPECT_EQ(first.computed[0].name + " = " + first.computed[0].expression, "amount = price * quantity");
  const intake::SourcePlan& second = from[1];
  EXPECT_EQ(second.sources.at(0).database, "sqlite:///shop.db");
  EXPECT_EQ(second.sources[0].query, "SELECT * FROM \"sales lines\"");
  EXPECT_EQ(second.sources[0].table, "sales lines");
  EXPECT_FALSE(second.trim_all);
  EXPECT_EQ(second.trim, std::vector<std::string>{"region"});
  EXPECT_EQ(second.numbers.thousands, " ");
  EXPECT_EQ(second.numbers.decimal, '.');
  EXPECT_FALSE(second.numbers.brackets || second.numbers.trailing_minus || second.numbers.percent);
  const intake::SourcePlan& orders = plan->table(intake::TableKind::orders)->from.at(0);
  EXPECT_EQ(orders.sources.at(0).database, "home/shop.db") << "a path next to the intake file";
  EXPECT_EQ(orders.sources[0].query, "SELECT 1");
  EXPECT_EQ(plan->table(intake::TableKind::products), nullptr);
}

TEST(IntakeFile, ReadsEveryRule) {
  const auto plan = intake::parse_intake(R"(
[lines]
file = "a.csv"
on_repeat = "replace orders"
[orders]
file = "b.csv"
[customers]
file = "c.csv"
latest_by = "updated"
[joins]
lines_to_orders = ["order_id", "branch = shop"]
[[duplicates]]
same = ["order_id", "line_no"]
keep = "last by updated"
[[duplicates]]
in = "customers"
same = "customer_id"
[[require]]
condition = "quantity <> 0"
reason = "no pieces"
[[exclude]]
condition = "customer_id = 'TEST'"
reason = "a test"
[returns]
condition = "kind = 'credit'"
sign = "keep"
[fees]
condition = "product_id = 'FREIGHT'"
[[same_customer]]
id = "C1"
also = ["C2", "C3"]
[groups.area]
from = "region"
North = ["N", "NE"]
South = "S"
other = "elsewhere"
[bands.size]
from = "quantity"
edges = [1, 2.5, 10]
[levels]
region = "customer"
)",
                                         "shop.toml");
  ASSERT_TRUE(plan) << plan.error().message;
  using intake::TableKind;
  EXPECT_TRUE(plan->replace_orders);
  EXPECT_EQ(plan->latest_customer_by, "updated");
  EXPECT_EQ(plan->joins.at({TableKind::lines, TableKind::orders}),
            (intake::JoinKeys{{"order_id", "order_id"}, {"branch", "shop"}}));
  ASSERT_EQ(plan->duplicates.size(), 2U);
  EXPECT_EQ(plan->duplicates[0].same, (std::vector<std::string>{"order_id", "line_no"}));
  EXPECT_TRUE(plan->duplicates[0].keep_last);
  EXPECT_EQ(plan->duplicates[0].by, "updated");
  EXPECT_EQ(plan->duplicates[0].table, TableKind::lines);
  EXPECT_EQ(plan->duplicates[1].table, TableKind::customers);
  EXPECT_FALSE(plan->duplicates[1].keep_last);
  EXPECT_EQ(plan->duplicates[1].by, "");
  EXPECT_EQ(plan->requirements.at(0).condition + ": " + plan->requirements[0].reason,
            "quantity <> 0: no pieces");
  EXPECT_EQ(plan->exclusions.at(0).condition + ": " + plan->exclusions[0].reason,
            "customer_id = 'TEST': a test");
  EXPECT_EQ(plan->return_condition, "kind = 'credit'");
  EXPECT_FALSE(plan->turn_returns);
  EXPECT_EQ(plan->fee_condition, "product_id = 'FREIGHT'");
  EXPECT_EQ(plan->same_customers.at(0).id, "C1");
  EXPECT_EQ(plan->same_customers[0].also, (std::vector<std::string>{"C2", "C3"}));
  const intake::Group& area = plan->groups.at(0);
  EXPECT_EQ(area.name + " from " + area.from + ", " + area.other.value_or(""), "area from region, elsewhere");
  EXPECT_EQ(area.values, (std::vector<std::pair<std::string, std::vector<std::string>>>{
                             {"North", {"N", "NE"}}, {"South", {"S"}}}));
  EXPECT_EQ(plan->bands.at(0).edges,
            (std::vector<Decimal>{Decimal::from_units(10'000), Decimal::from_units(25'000),
                                  Decimal::from_units(100'000)}));
  EXPECT_EQ(plan->levels.at("region"), daybook::Level::customer);
}

TEST(IntakeFile, ReportsUnknownNames) {
  const TemporaryFolder folder;
  folder.write(
      "a.csv",
      "order_id,order_date,customer_id,product_id,quantity,unit_price,region\nA1,2024-01-01,C1,P1,1,2,N\n");
  const std::string lines = "[lines]\nfile = \"a.csv\"\n";
  const auto of = [&](const std::string& more) { return import_intake(folder, lines + more).fault; };
  EXPECT_EQ(of("trim = [\"regoin\"]\n"),
            "lines: trim names \"regoin\", but a.csv has no such column. Did you mean \"region\"?");
  EXPECT_EQ(of("[lines.columns]\namount = \"Total\"\n"),
            "a.csv has no column \"Total\" for amount; its columns are \"order_id\", \"order_date\", "
            "\"customer_id\", "
            "\"product_id\", \"quantity\", \"unit_price\", \"region\".");
  folder.write("b.csv", "order_id,product_id,quantity,unit_price,Client\nA1,P1,1,2,C1\n");
  EXPECT_EQ(import_intake(folder, "[lines]\nfile = \"b.csv\"\n").fault,
            "b.csv: no column was recognised as order_date, customer_id. Its columns are \"order_id\", "
            "\"product_id\", \"quantity\", \"unit_price\", \"Client\". Name them under [lines.columns] of "
            "shop.toml, for example order_date = \"Name of the column\".");
  EXPECT_EQ(of("[levels]\nregon = \"customer\"\n"),
            "[levels] names \"regon\", but there is no such column. Did you mean \"region\"?");
  EXPECT_EQ(of("[groups.g]\nfrom = \"regin\"\n"),
            "[groups.g] is made from \"regin\", but there is no such column. Did you mean \"region\"?");
  EXPECT_EQ(of("[bands.b]\nfrom = \"region\"\nedges = [1]\n"),
            "[bands.b] is made from \"region\", which does not contain only numbers: \"N\".");
  EXPECT_EQ(of("[groups.region]\nfrom = \"region\"\n"),
            "[groups.region]: there is already a column \"region\"; choose another name.");
  EXPECT_EQ(
      of("[[duplicates]]\nsame = \"region > 1\"\n"),
      "[[duplicates]] in lines: \"region\" is text, which cannot be compared with the number 1 (column 10)");
}

TEST(IntakeFile, SeveralFilesFormOneTableInAnyOrderOfColumns) {
  const TemporaryFolder folder;
  folder.write("sales-2.csv",
               "order_id,order_date,customer_id,product_id,quantity,unit_price\nA2,2024-01-02,C1,P1,1,2\n");
  folder.write("sales-10.csv",
               "product_id,order_id,order_date,customer_id,unit_price,quantity\nP2,A3,2024-01-03,C2,5,"
               "bad\nP2,A4,2024-01-03,C2,5,3\n");
  const ImportRun run = import_intake(folder, "[lines]\nfile = \"sales-*.csv\"\n");
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(column_text(run.imported->built.daybook, "amount"), "line 2 15");
  ASSERT_EQ(run.imported->sources.size(), 2U);
  EXPECT_TRUE(run.imported->sources[0].record.name.ends_with("sales-2.csv")) << "natural order";
  ASSERT_EQ(run.rejected.size(), 1U);
  EXPECT_TRUE(run.rejected[0].source.ends_with("sales-10.csv"));
  folder.write(
      "sales-3.csv",
      "order_id,order_date,customer_id,product_id,quantity,unit_price,note\nA2,2024-01-02,C1,P1,1,2,x\n");
  EXPECT_EQ(import_intake(folder, "[lines]\nfile = \"sales-*.csv\"\n").fault,
            "sales-3.csv has a column \"note\", but sales-2.csv does not. Files with different columns each "
            "need their own [[lines.from]].");
}

}  // namespace
}  // namespace pear::test
