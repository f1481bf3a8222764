// Guessing, and the starter file.
#include "intake/inspect/inspection.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "intake/inspect/inspection_report.hpp"
#include "intake/plan/starter.hpp"
#include "support/importing.hpp"

namespace pear::test {
namespace {

intake::Inspection inspect(const TemporaryFolder& folder, const std::vector<std::string>& files) {
  std::vector<sources::TableAddress> sources;
  for (const std::string& file : files) {
    sources.emplace_back();
    sources.back().file = folder / file;
  }
  return *intake::inspect_sources(sources, [](const intake::ImportProgress&) {});
}

std::string roles_of(const intake::GuessedTable& table) {
  std::string text(intake::to_text(table.kind));
  for (const intake::GuessedColumn& column : table.columns)
    text += " " + (column.is_role ? column.name : "-");
  return text;
}

TEST(Inspection, RolesAreGuessedByNamesAndByValuesThatTablesShare) {
  const TemporaryFolder folder;
  folder.write("l.csv", "Invoice;Art. No;Pcs;Price\n10;007;1;1,50\n10;008;2;2,25\n11;007;1;1,50\n");
  folder.write("o.csv", "Nummer;Placed;Client No;Region \n10;13.01.2024;C1;north\n11;01.02.2024;C2;North\n");
  folder.write("p.csv", "Artikel;Cost\n007;0,5\n008;1,25\n");
  folder.write("q.csv", "Ding;Worth\n007;0,5\n008;1,25\n");
  for (const char* products : {"p.csv", "q.csv"}) {
    const intake::Inspection seen = inspect(folder, {"l.csv", "o.csv", products});
    ASSERT_EQ(seen.guess.tables.size(), 3U) << products;
    EXPECT_EQ(roles_of(seen.guess.tables[0]), "lines order_id product_id quantity unit_price");
    EXPECT_EQ(seen.guess.tables[0].numbers.decimal, ',');
    EXPECT_EQ(roles_of(seen.guess.tables[1]), "orders order_id order_date customer_id -");
    EXPECT_EQ(roles_of(seen.guess.tables[2]),
              std::string(products) == "p.csv" ? "products product_id unit_cost" : "products product_id -");
  }
}

TEST(Inspection, TheStarterFileImportsWithoutChanges) {
  const TemporaryFolder folder;
  folder.write("lines.csv", "Order No;Article;Qty;Price\nA1;P1;1;1,50\nA1;P2; 2;2,25\nA2;P1;1;1,50\n");
  folder.write("orders.csv", "Order;Date;Customer No\nA1;13.01.2024;C1\nA2;01.02.2024;c1\n");
  const intake::Inspection seen = inspect(folder, {"lines.csv", "orders.csv"});
  ASSERT_TRUE(seen.trial.has_value()) << seen.no_trial;
  EXPECT_EQ(seen.trial->built.daybook.lines(), 3U);
  const ImportRun run =
      import_intake(folder, intake::starter_intake(seen.guess, seen.profiles, folder.path()));
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(run.imported->built.daybook.customers(), 1U);
  EXPECT_EQ(column_text(run.imported->built.daybook, "order_date"), "order 2024-01-13 2024-02-01");
}

/// One section for the forms of a table, also of one that is not the first.
TEST(Inspection, TheStarterFileHasOneSectionForSeveralForms) {
  const TemporaryFolder folder;
  folder.write("lines.csv",
               "order_id,order_date,customer_id,product_id,quantity,unit_price\nA1,2024-01-13,C1,P1,1,1.50\n"
               "A2,2024-01-14,C2,P2,2,2.50\nA3,2024-01-15,C3,P1,1,1.50\n");
  folder.write("old.csv", "customer_id,customer_name,region\nC1,Ada Ash,North\n");
  folder.write("new.csv", "Customer Id;Customer Name;Region\nC2;Bo Bay;South\nC3;Cy Cole;South\n");
  const intake::Inspection seen = inspect(folder, {"lines.csv", "old.csv", "new.csv"});
  const std::string starter = intake::starter_intake(seen.guess, seen.profiles, folder.path());
  const std::string section = "\n[customers]   # exports in different forms; each has its own keys below\n";
  const std::size_t first = starter.find(section);
  ASSERT_NE(first, std::string::npos) << starter;
  EXPECT_EQ(starter.find("\n[customers]", first + 1), std::string::npos) << starter;
  EXPECT_TRUE(import_intake(folder, starter).imported);
}

/// Without names, the lines are the file with quantities and prices, however many rows another one has.
TEST(Inspection, FindsTheLinesAmongFilesWithoutNames) {
  const TemporaryFolder folder;
  std::string lines = "a,b,c,d,e,f\n", others = "k,l,m\n";
  for (int i = 0; i < 40; ++i)
    lines += fmt::format("A{},2024-0{}-11,C{},P{},{},{}.50\n", i / 2, i % 9 + 1, i / 4, i % 7, i % 3 + 1,
                         i % 7 + 1);
  for (int i = 0; i < 90; ++i)
    others += fmt::format("C{},2023-0{}-1{},word {}\n", i, i % 9 + 1, i % 9, i % 5);
  folder.write("lines.csv", lines);
  folder.write("others.csv", others);
  const intake::Inspection seen = inspect(folder, {"lines.csv", "others.csv"});
  ASSERT_FALSE(seen.guess.tables.empty());
  EXPECT_EQ(seen.guess.tables[0].kind, intake::TableKind::lines);
  EXPECT_EQ(seen.guess.tables[0].sources, std::vector<std::size_t>{0});
}

TEST(Inspection, AFileWithOnlyAHeaderIsRecognisedByItsNames) {
  const TemporaryFolder folder;
  folder.write(
      "lines.csv",
      "Order No,Date,Customer No,Article,Qty,Price\nA1,2024-01-13,C1,P1,1,1.50\nA2,2024-01-14,C1,P2,1,2\n");
  folder.write("kunden.csv", "Kundennummer,Name,Region\n");
  const intake::Inspection seen = inspect(folder, {"lines.csv", "kunden.csv"});
  ASSERT_EQ(seen.guess.tables.size(), 2U);
  EXPECT_EQ(roles_of(seen.guess.tables[1]), "customers customer_id - -");
  ASSERT_TRUE(seen.trial.has_value()) << seen.no_trial;
  EXPECT_EQ(seen.trial->built.daybook.lines(), 2U);
  EXPECT_TRUE(seen.trial->notes.back().ends_with("kunden.csv: It has a header and no rows."));
}

/// The names of products and customers are found, in their own tables or next to their ids.
TEST(Inspection, NamesOfProductsAndCustomersAreFound) {
  const TemporaryFolder folder;
  folder.write("lines.csv",
               "Order No,Date,Customer No,Kundenname,Article,Description,Qty,Price,Company\n"
               "A1,2024-01-13,C1,Ada,P1,Sock yarn 50,1,1.50,x\nA2,2024-01-14,C2,Bo,P2,Dye,1,2,y\n"
               "A3,2024-01-15,C2,Bo,P1,Sock yarn 50,1,2,z\n");
  folder.write("products.csv", "Article,Name,Description\nP1,Yarn,Sock yarn 50\nP2,Dye,Dye\n");
  const intake::Inspection flat = inspect(folder, {"lines.csv"});
  std::string starter = intake::starter_intake(flat.guess, flat.profiles, folder.path());
  for (const char* line : {"customer_name = \"Kundenname\"    # by its name; shown next to customer_id\n",
                           "product_name = \"Description\"    # by its name; shown next to product_id\n",
                           "# company = \"Company\""})
    EXPECT_NE(starter.find(line), std::string::npos) << line << starter;
  ASSERT_TRUE(flat.trial) << flat.no_trial;
  EXPECT_EQ(columns_by_name(flat.trial->built.daybook, {"customer_name", "product_name"}),
            "customer_name: customer Ada Bo\nproduct_name: product Sock yarn 50 Dye\n");
  // A list of products knows their names better than old lines do.
  const intake::Inspection two = inspect(folder, {"lines.csv", "products.csv"});
  starter = intake::starter_intake(two.guess, two.profiles, folder.path());
  EXPECT_NE(starter.find("\nproduct_name = \"Name\""), std::string::npos) << starter;
  EXPECT_EQ(starter.find("\nproduct_name = \"Description\""), std::string::npos) << starter;
  ASSERT_TRUE(two.trial) << two.no_trial;
  EXPECT_EQ(column_text(two.trial->built.daybook, "product_name"), "product Yarn Dye");
}

/// Every column of every file is in the starter; the user only fills in names.
TEST(Inspection, TheStarterFileListsEveryColumn) {
  const TemporaryFolder folder;
  folder.write("lines.csv", "Aa,Bb,Cc\nx,y,z\nx,y,\"two\nlines\"\n");
  folder.write("other.csv", "Dd,Ee\n1,red\n2,green\n");
  const intake::Inspection seen = inspect(folder, {"lines.csv", "other.csv"});
  const std::string starter = intake::starter_intake(seen.guess, seen.profiles, folder.path());
  for (const char* line : {"# aa = \"Aa\"                     # text: x\n",
                           "# cc = \"Cc\"                     # text: z · two lines\n",
                           "# [TABLE]   # 2 rows\n# file = \"other.csv\"\n# [TABLE.columns]\n",
                           "# dd = \"Dd\"                     # number: 1 · 2\n"})
    EXPECT_NE(starter.find(line), std::string::npos) << line << starter;
  EXPECT_EQ(import_intake(folder, starter).fault.substr(0, 46),
            "shop.toml has no table [lines], which names th");
}

/// Values that call for a decision make blocks, commented out, that work once the # signs are gone.
TEST(Inspection, ProposesReturnsFeesAndExclusions) {
  const TemporaryFolder folder;
  folder.write(
      "s.csv",
      "order_id,order_date,customer_id,product_id,quantity,unit_price,kind,customer_name,product,paid\n"
      "A1,2024-01-13,C1,P1,1,1.50,Sale,Ann's shop,Test tube,Credit card\n"
      "A2,2024-01-14,C1,P1,1,1.50,Gutschrift,Ann's shop,Test tube,Cash on delivery\n"
      "A3,2024-01-14,C1,Versand,1,5,Sale,Ann's shop,Post,cash\n"
      "A4,2024-01-14,C9,P1,1,1.50,Sale,\"O'Test, test\",Test tube,cash\n");
  const intake::Inspection seen = inspect(folder, {"s.csv"});
  std::string starter = intake::starter_intake(seen.guess, seen.profiles, folder.path());
  for (const char* line : {"# [returns]\n# condition = \"kind = 'Gutschrift'\"\n",
                           "# [fees]\n# condition = \"product_id = 'Versand'\"\n",
                           "# [[exclude]]\n# condition = \"customer_name = 'O''Test, test'\"\n# reason = "}) {
    const std::size_t at = starter.find(line);
    ASSERT_NE(at, std::string::npos) << line << starter;
    for (std::size_t hash = at; starter.compare(hash, 2, "# ") == 0; hash = starter.find('\n', hash) + 1)
      starter.erase(hash, 2);
  }
  const ImportRun run = import_intake(folder, starter);
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(column_text(run.imported->built.daybook, "amount"), "line 1.5 -1.5 5");
  EXPECT_EQ(run.imported->turned, 1U);
  EXPECT_EQ(run.imported->fees, 1U);
}

TEST(Inspection, AsksWhatTheDataLeavesOpen) {
  const TemporaryFolder folder;
  folder.write("s.csv",
               "order_id,order_date,customer_id,product_id,quantity,unit_price\nA1,01/02/2024,C1,P1,1,2\n");
  const intake::Inspection seen = inspect(folder, {"s.csv"});
  ASSERT_EQ(seen.guess.questions.size(), 1U);
  EXPECT_FALSE(seen.trial.has_value());
  const std::string starter = intake::starter_intake(seen.guess, seen.profiles, folder.path());
  const std::string day_first = "# date_format = \"%d/%m/%Y\"   # 01/02/2024 is in day, month order\n";
  ASSERT_NE(starter.find(day_first), std::string::npos) << starter;
  ASSERT_NE(starter.find("# date_format = \"%m/%d/%Y\""), std::string::npos);
  EXPECT_NE(import_intake(folder, starter).fault.find("is not a date"), std::string::npos)
      << "never settled silently";
  std::string settled = starter;
  settled.replace(settled.find(day_first), 2, "");
  EXPECT_EQ(column_text(import_intake(folder, settled).imported->built.daybook, "order_date"),
            "order 2024-02-01");
}

TEST(Inspection, ReportsSuspiciousValues) {
  const TemporaryFolder folder;
  folder.write("s.csv",
               "order_id,order_date,customer_id,product_id,quantity,unit_price,,plz,mix,paid\n"
               "A1,2024-01-02,C1,P1,1,2,x,01067,1,$ 5\nA2,03.01.2024,c1,P1,-1,\"2,5\",y "
               ",80331,2,7\nA2,03.01.2024,c1,P1,-1,\"2,5\",y ,80331,2,7\n"
               "A3,2024-01-04,C1,P1,1,3.5,z,10115,about,8 EUR\n");
  const intake::Inspection seen = inspect(folder, {"s.csv"});
  const result::Result result = intake::report_inspection(seen);
  std::string told;
  for (const result::Table& table : result.tables) {
    if (table.part != "suspicious") continue;
    for (std::size_t row = 0; row < table.rows(); ++row)
      told += std::string(table.columns[1].text(row)) + ": " + std::string(table.columns[2].text(row)) + "\n";
  }
  EXPECT_EQ(
      told,
      "(whole row): 1 row is identical to an earlier one\norder_date: dates are written in several ways: "
      "\"03.01.2024\", \"2024-01-02\"\ncustomer_id: 2 values that differ from another only in upper and "
      "lower case\nquantity: 2 values below zero\nunit_price: decimal commas and decimal points\n(column 7): "
      "no name in the header; called column_7\n(column 7): 2 values with spaces at an end\nplz: 1 value with "
      "leading zeros: kept as text\nmix: mixed: 3 numbers, 0 dates, 1 texts such as \"about\"\npaid: 2 "
      "numbers have other characters in them, such as \"$ 5\"\n");
}

/// A table with anything that reports put around it is inspected and imported like the table itself.
RC_GTEST_PROP(Inspection, FindsTheTableWithinAReport, ()) {
  const auto pick = [](int from, int to) { return *rc::gen::inRange(from, to); };
  const char delimiter = *rc::gen::element(',', ';', '\t');
  const auto row = [&](std::vector<std::string> cells) {
    std::string text;
    for (std::size_t i = 0; i < 6; ++i)
      text += (i > 0 ? std::string(1, delimiter) : "") + (i < cells.size() ? cells[i] : "");
    return text + "\n";
  };
  const std::string header = row({"Order No", "Placed", "Customer", "Article", "Quantity", "Price"});
  std::string plain = header, report;
  const std::string titles[] = {"Sales report", "Branch 12", "Period: all", "Printed by the office"};
  for (int i = pick(0, 5); i > 0; --i) report += pick(0, 3) == 0 ? row({}) : row({titles[pick(0, 4)]});
  report += header;
  const int orders = pick(8, 30);
  for (int order = 0; order < orders; ++order) {
    for (int line = pick(1, 4); line > 0; --line) {
      const std::string data = row({fmt::format("A{}", order), fmt::format("2024-01-{:02}", order % 28 + 1),
                                    "K1", fmt::format("P{}", line), "2", fmt::format("{}.50", line)});
      plain += data;
      report += data;
    }
    if (pick(0, 4) == 0) report += row({fmt::format("Subtotal A{}", order), "", "", "", "", "17.00"});
    if (pick(0, 9) == 0) report += header;
  }
  if (pick(0, 2) == 0) report += row({"Total", "", "", "", "99", "500.00"});
  if (pick(0, 2) == 0) report += row({}) + row({"Printed on 2024-02-01"});
  const TemporaryFolder folder;
  folder.write("plain.csv", plain);
  folder.write("report.csv", report);
  const intake::Inspection of_plain = inspect(folder, {"plain.csv"}),
                           of_report = inspect(folder, {"report.csv"});
  RC_ASSERT(of_plain.trial && of_report.trial);
  RC_ASSERT(
      columns_by_name(of_report.trial->built.daybook, {"order_id", "order_date", "product_id", "amount"}) ==
      columns_by_name(of_plain.trial->built.daybook, {"order_id", "order_date", "product_id", "amount"}));
  RC_ASSERT(of_report.trial->reasons.empty());
}

TEST(Inspection, AProductWhoseNameBeginsLikeATotalStays) {
  const TemporaryFolder folder;
  folder.write("s.csv",
               "name,order_id,order_date,customer_id,product_id,quantity,unit_price\nTotal "
               "care,A1,2024-01-02,C1,P1,1,2\n"
               "Wool,A2,2024-01-03,C1,P2,1,2\nTotal,,,,,2,4\n");
  const intake::Inspection seen = inspect(folder, {"s.csv"});
  ASSERT_EQ(seen.profiles[0].odd_rows.size(), 1U);
  EXPECT_EQ(seen.profiles[0].odd_rows[0].pattern, "Total");
  ASSERT_TRUE(seen.trial) << seen.no_trial;
  EXPECT_EQ(seen.trial->built.daybook.lines(), 2U);
}

TEST(Inspection, SheetsWithOneHeaderAreOneTableEachReadOnce) {
  const auto tables = sources::tables_of_file(std::string(PEAR_SPREADSHEETS) + "/months.xlsx");
  ASSERT_TRUE(tables);
  const auto seen = intake::inspect_sources(*tables, [](const intake::ImportProgress&) {});
  ASSERT_TRUE(seen && seen->trial) << (seen ? seen->no_trial : seen.error().message);
  EXPECT_EQ(column_text(seen->trial->built.daybook, "amount"), "line 7 7 3.5");
  EXPECT_NE(intake::starter_intake(seen->guess, seen->profiles, "").find("months.xlsx?sheet=Feb"),
            std::string::npos);
}

TEST(Inspection, ARowWithOneEmptyCellIsNoTotal) {
  const TemporaryFolder folder;
  folder.write(
      "s.csv",
      "name,order_id,order_date,customer_id,product_id,quantity,unit_price,colour\n"
      "Total "
      "care,A1,2024-01-02,C1,P1,1,2,\nWool,A2,2024-01-03,C1,P2,1,2,red\nSilk,A3,2024-01-03,C1,P3,1,2,red\n");
  EXPECT_TRUE(inspect(folder, {"s.csv"}).profiles[0].odd_rows.empty());
}

TEST(Inspection, NamesTheFormatThatFitsADate) {
  const std::pair<const char*, std::vector<std::string>> cases[] = {
      {"31.12.2024", {"%d.%m.%Y"}}, {"12/31/24", {"%m/%d/%y"}},    {"01/02/2024", {"%d/%m/%Y", "%m/%d/%Y"}},
      {"20241231", {"%Y%m%d"}},     {"31 Dec 2024", {"%d %b %Y"}}, {"soon", {}}};
  for (const auto& [text, formats] : cases) EXPECT_EQ(intake::fitting_formats(text), formats) << text;
}

TEST(Inspection, RecognisesNumbersAndDatesAsPeopleWriteThem) {
  struct Case {
    const char *date, *price, *keys;
  };
  const Case cases[] = {
      {"03/14/2024 2:30 PM", "$1,234.50",
       "date_format = \"%m/%d/%Y %I:%M %p\"\nthousands = \",\"\nstrip = [\"$\"]"},
      {"14. März 2024", "1 234,50 €",
       "date_format = \"%d. %b %Y\"\ndate_language = \"de\"\ndecimal = \",\"\nthousands = \" \"\nstrip = "
       "[\"€\"]"},
      {"Mar 14, 2024", "CHF 1'234.50", "date_format = \"%b %d, %Y\"\nthousands = \"'\"\nstrip = [\"CHF\"]"},
      {"14-Mar-24", "1234.50", "date_format = \"%d-%b-%y\""},
      {"20240314", "1234.50 EUR", "date_format = \"%Y%m%d\"\nstrip = [\"EUR\"]"},
      {"45365", "1234.50", "date_format = \"serial\""},
      {"14.03.24", "1.234,50", "date_format = \"%d.%m.%y\"\ndecimal = \",\"\nthousands = \".\""}};
  for (const Case& each : cases) {
    const TemporaryFolder folder;
    folder.write("s.tsv", fmt::format("order_id\torder_date\tcustomer_id\tproduct_id\tquantity\tunit_price\n"
                                      "A1\t{0}\tC1\tP1\t1\t{1}\nA2\t{0}\tC2\tP1\t2\t{1}\n",
                                      each.date, each.price));
    const intake::Inspection seen = inspect(folder, {"s.tsv"});
    ASSERT_TRUE(seen.trial) << each.date << ": " << seen.no_trial;
    EXPECT_EQ(column_text(seen.trial->built.daybook, "unit_price"), "line 1234.5 1234.5") << each.price;
    EXPECT_EQ(column_text(seen.trial->built.daybook, "order_date").substr(0, 16), "order 2024-03-14")
        << each.date;
    std::string starter = intake::starter_intake(seen.guess, seen.profiles, "");
    for (std::size_t at = 0; (at = starter.find("   # ", at)) != std::string::npos;)
      starter.erase(at, starter.find('\n', at) - at);
    EXPECT_NE(starter.find(each.keys), std::string::npos) << starter;
  }
}

}  // namespace
}  // namespace pear::test
