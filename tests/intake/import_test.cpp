#include "intake/import.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "analysis/population.hpp"
#include "intake/import_report.hpp"
#include "intake/read/table_columns.hpp"
#include "support/importing.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

const std::string kHeader = "order_id,order_date,customer_id,product_id,quantity,unit_price\n";

RC_GTEST_PROP(Import, BuildsTheDaybookOfTheLines, ()) {
  const Sales sales = random_sales(true);
  const ImportRun outcome = import_text(to_csv(sales));
  RC_ASSERT(outcome.imported.has_value());
  RC_ASSERT(outcome.imported->built.daybook.parts() == build(sales).daybook.parts());
}

/// Randomly broken rows: everything read is kept or rejected, in rows and in money.
RC_GTEST_PROP(Import, AccountsForEveryRowAndAmount, ()) {
  const Sales sales = random_sales();
  std::string text = kHeader;
  std::size_t rows = 0;
  for (const Sale& sale : sales) {
    std::string row = to_csv({sale}).substr(kHeader.size());
    row.pop_back();
    const int damage = pick(0, 12);
    if (damage == 0) row += ",surplus";
    if (damage == 1) row[row.find(',') + 1] = 'x';
    if (damage == 2) row.insert(row.rfind(',') + 1, "about ");
    if (damage == 3) row.erase(0, row.find(','));
    text += row + "\n";
    ++rows;
  }
  const ImportRun outcome = import_text(text);
  RC_PRE(outcome.imported.has_value());
  const intake::Imported& imported = *outcome.imported;
  RC_ASSERT(imported.sources[0].record.rows_read == rows);
  RC_ASSERT(imported.sources[0].record.rows_rejected == outcome.rejected.size());
  RC_ASSERT(imported.built.daybook.lines() + outcome.rejected.size() == rows);
  for (const result::Check& check :
       intake::report_import(imported, analysis::population_of(imported.built.daybook)).checks)
    RC_ASSERT(check.holds);
}

TEST(Import, RejectsRowsWithLineColumnValueAndReason) {
  const std::string good = "A1,2024-01-02,C1,P1,2,1.50\n";
  const ImportRun outcome = import_text(
      kHeader + good + ",2024-01-02,C1,P1,2,1.50\n" + "A2,02.01.2024,C1,P1,2,1.50\n" +
      "A3,2024-02-30,C1,P1,2,1.50\n" + "A4,2024-01-02,,P1,2,1.50\n" + "A5,2024-01-02,C1,P1,two,1.50\n" +
      "A6,2024-01-02,C1,P1,2,\n" + "A7,2024-01-02,C1\n" + "A8,2024-01-02,C1,P1,2,1.00001\n" +
      "A10,2024-01-02,C1,P1,900000000000000,900000000\n" + good);
  std::vector<std::string> told;
  for (const intake::RejectedRow& row : outcome.rejected)
    told.push_back(std::to_string(row.line) + "|" + row.column + "|" + row.value + "|" + row.reason);
  EXPECT_EQ(told, (std::vector<std::string>{
                      "3|order_id||is empty", "4|order_date|02.01.2024|is not a date (YYYY-MM-DD)",
                      "5|order_date|2024-02-30|is a day that does not exist", "6|customer_id||is empty",
                      "7|quantity|two|is not a number", "8|unit_price||is empty",
                      "9|||has 3 fields where the header has 6",
                      "10|unit_price|1.00001|has more than 4 decimal places",

                      "11|quantity|900000000000000|times unit_price is too large"}));
  EXPECT_EQ(outcome.rejected[3].row, "A4,2024-01-02,,P1,2,1.50");
  const intake::Imported& imported = *outcome.imported;
  EXPECT_EQ(imported.sources[0].record.rows_kept, 2U);
  EXPECT_EQ(imported.sources[0].sums.read.total()->to_text(), "18");
  EXPECT_EQ(imported.sources[0].sums.kept.total()->to_text(), "6");
  EXPECT_EQ(imported.sources[0].sums.unreadable, 5U);
}

TEST(Import, ComputesAMissingAmount) {
  const ImportRun outcome = import_text(
      "order_id,order_date,customer_id,product_id,quantity,unit_price,amount\n"
      "A1,2024-01-02,C1,P1,0.3333,0.5,\n"
      "A2,2024-01-03,C1,P1,3,0.5,1.2\n"
      "A3,2024-01-04,C1,P1,-0.3333,0.5,\n");
  const auto amounts = outcome.imported->built.daybook.amounts();
  EXPECT_EQ(std::vector<std::int64_t>(amounts.begin(), amounts.end()),
            (std::vector<std::int64_t>{1667, 12000, -1667}));
  EXPECT_EQ(outcome.imported->built.daybook.return_flags()[2], 1);
}

TEST(Import, KeepsOtherColumnsAtTheirLevel) {
  const ImportRun outcome = import_text(
      "Order ID,Order Date,Customer ID,Product ID,Quantity,Unit Price,unit_cost,Region,,Region,year,weight "
      "kg,paid by\n"
      "A1,2024-01-02,C1,P1,1,2,1.5,North,a,x,2024,1.25,card\n"
      "A1,2024-01-02,C1,P2,1,2,,North,b,x,2024,0.5,card\n"
      "A2,2024-01-03,C2,P1,1,2,1.5,East,c,y,2024,1.25,bill\n"
      "A3,2024-01-03,C2,P1,1,2,1.5,East,d,y,2024,1.25,card\n");
  const daybook::Daybook& book = outcome.imported->built.daybook;
  std::vector<std::string> told;
  for (const daybook::Column& column : book.parts().columns)
    told.push_back(column.name + " " + std::string(daybook::to_text(column.level)) + " " +
                   std::string(daybook::to_text(column.type())));
  EXPECT_EQ(told, (std::vector<std::string>{
                      "order_date order date", "is_return line flag", "quantity line decimal",
                      "unit_price line decimal", "amount line decimal", "unit_cost product decimal",
                      "region customer text", "column_9 line text", "region_2 customer text",
                      "year_2 customer decimal", "weight_kg product decimal", "paid_by order text"}));
  EXPECT_EQ(
      outcome.imported->notes,
      (std::vector<std::string>{"Column 9 has no name in the header; it is called column_9.",
                                "Column 10 (\"Region\") is called region_2, because region is used already.",
                                "Column 11 (\"year\") is called year_2, because year is used already."}));
}

TEST(Import, RolesCanBeAssigned) {
  const auto assignments = *intake::parse_assignments("order_id=\"No, new\",quantity=Pieces");
  const ImportRun outcome = import_text(
      "\"No, new\",order_date,customer_id,product_id,Pieces,unit_price,order_id\nA1,2024-01-02,C1,P1,2,3,x\n",
      assignments);
  ASSERT_TRUE(outcome.imported.has_value()) << outcome.fault;
  EXPECT_EQ(outcome.imported->built.daybook.order_ids()[0], "A1");
  EXPECT_NE(outcome.imported->built.daybook.find("order_id_2"), nullptr);
}

TEST(Import, ReportsFilesThatItCannotUse) {
  const auto fault = [](const std::string& text) { return import_text(text).fault; };
  EXPECT_EQ(fault(kHeader), "sales.csv has a header and no rows.");
  EXPECT_EQ(
      fault("Order No;order_date;Custmer ID;product;quantity;price\n1;2;3;4;5;6\n"),
      "sales.csv: no column was recognised as order_id, customer_id, product_id, unit_price. Its columns are "
      "\"Order No\", \"order_date\", \"Custmer ID\", \"product\", \"quantity\", \"price\". Name them, for "
      "example --map order_id=\"Order No\",customer_id=\"Custmer ID\",product_id=\"product\"; or run "
      "pear-thread inspect sales.csv --write intake.toml to write an intake file.");
  EXPECT_EQ(
      fault(kHeader + "A1,x,C1,P1,2,3\nA2,x,C1,P1,2,3\n"),
      "none of the 2 rows of sales.csv can be used. Most frequent: \"order_date\" is not a date (YYYY-MM-DD) "
      "(first on line 2). Set date_format in an intake file; pear-thread inspect detects the format.");
  EXPECT_EQ(import_text(kHeader).kind, ErrorKind::data);
}

TEST(Import, AssignmentsAreChecked) {
  const auto fault = [](const std::string& map) {
    const auto assignments = intake::parse_assignments(map);
    return assignments ? import_text(kHeader + "A1,2024-01-02,C1,P1,2,3\n", *assignments).fault
                       : assignments.error().message;
  };
  EXPECT_EQ(fault("order_id"), "--map: \"order_id\" is not role=column, as in order_id=\"Order No\".");
  EXPECT_EQ(fault("order_id=\"a"), "--map: the quotation mark before \"a\" is never closed.");
  EXPECT_EQ(fault("order_id=\"a\"b"), "--map: expected a comma before \"b\".");
  EXPECT_EQ(
      fault("oder_id=order_id"),
      "--map: \"oder_id\" is not a role; roles are order_id, order_date, customer_id, product_id, quantity, "
      "unit_price, amount, unit_cost, list_price, currency. Did you mean \"order_id\"?");
  EXPECT_EQ(fault("order_id=Order No"),
            "sales.csv has no column \"Order No\" for order_id; its columns are \"order_id\", "
            "\"order_date\", "
            "\"customer_id\", \"product_id\", \"quantity\", \"unit_price\". Did you mean \"order_id\"?");
  EXPECT_EQ(fault("order_id=order_id,order_id=quantity"), "--map: the role order_id is given twice.");
}

}  // namespace
}  // namespace pear::test
