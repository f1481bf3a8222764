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
