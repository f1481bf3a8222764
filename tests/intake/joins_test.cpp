// Several tables compared with one.
#include <map>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "analysis/population.hpp"
#include "intake/import_report.hpp"
#include "support/importing.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

const std::string kFourTables = R"(
[lines]
file = "lines.csv"
[orders]
file = "orders.csv"
[products]
file = "products.csv"
[customers]
file = "customers.csv"
)";

/// The same sales as one flat file and as four tables, every order with an id of its own and one date.
struct BothWays {
  TemporaryFolder folder;
  std::string flat = "order_id,order_date,customer_id,product_id,quantity,unit_price,colour,region\n";

  explicit BothWays(const Sales& sales) {
    std::map<std::string, std::string> orders, customers, products;
    std::string lines = "order_id,product_id,quantity,unit_price\n";
    for (const Sale& sale : sales) {
      const std::string order = sale.customer_id + "-" + sale.order_id;
      const std::string date = orders.contains(order) ? orders[order] : sale.date;
      orders[order] = date;
      customer_of_[order] = sale.customer_id;
      const std::string region = fmt::format(
          "R{}", sale.customer_id.size() + static_cast<unsigned char>(sale.customer_id.back()) % 3);
      const std::string colour = fmt::format("K{}", static_cast<unsigned char>(sale.product_id.back()) % 4);
      customers[sale.customer_id] = region;
      products[sale.product_id] = colour;
      const std::string rest = fmt::format("{},{},{}", sale.product_id, sale.quantity,
                                           Decimal::from_units(sale.unit_price * 100).to_text(2));
      flat += fmt::format("{},{},{},{},{},{}\n", order, date, sale.customer_id, rest, colour, region);
      lines += fmt::format("{},{}\n", order, rest);
    }
    folder.write("lines.csv", lines);
    std::string text = "order_id,order_date,customer_id\n";
    for (const auto& [order, date] : orders)
      text += fmt::format("{},{},{}\n", order, date, customer_of_[order]);
    folder.write("orders.csv", text);
    write_list("customers.csv", "customer_id,region", customers);
    write_list("products.csv", "product_id,colour", products);
  }

 private:
  void write_list(const char* name, const std::string& header,
                  const std::map<std::string, std::string>& rows) {
    std::string text = header + "\n";
    for (const auto& [id, value] : rows) text += id + "," + value + "\n";
    text += "UNUSED,x\n";
    folder.write(name, text);
  }
  std::map<std::string, std::string> customer_of_;
};

RC_GTEST_PROP(Joins, FourTablesGiveTheDaybookOfTheFlatFile, ()) {
  const BothWays both(random_sales());
  const ImportRun flat = import_text(both.flat);
  const ImportRun four = import_intake(both.folder, kFourTables);
  RC_LOG() << flat.fault << "\n" << four.fault << "\n" << both.flat;
  RC_ASSERT(flat.imported.has_value());
  RC_ASSERT(four.imported.has_value());
  const daybook::Daybook& a = flat.imported->built.daybook;
  const daybook::Daybook& b = four.imported->built.daybook;
  RC_ASSERT(a.customer_ids() == b.customer_ids());
  RC_ASSERT(a.order_ids() == b.order_ids());
  RC_ASSERT(a.product_ids() == b.product_ids());
  RC_ASSERT(a.parts().line_offsets == b.parts().line_offsets);
  RC_ASSERT(a.parts().line_products == b.parts().line_products);
  for (const char* name : {"order_date", "quantity", "unit_price", "amount", "is_return"})
    RC_ASSERT(column_text(a, name) == column_text(b, name));
  for (const intake::JoinCount& join : four.imported->joins) RC_ASSERT(join.unmatched == 0U);
  RC_ASSERT(b.find("region")->level == daybook::Level::customer);
  RC_ASSERT(b.find("colour")->level == daybook::Level::product);
  for (const result::Check& check :
       intake::report_import(*four.imported, analysis::population_of(four.imported->built.daybook)).checks)
    RC_ASSERT(check.holds);
}

TEST(Joins, ListUnmatchedKeysOfBothSides) {
  const TemporaryFolder folder;
  folder.write("lines.csv",
               "order_id,product_id,quantity,unit_price\nA1,P1,1,2\nA9,P1,1,3\nA1,P7,1,4\nA9,P1,2,3\n");
  folder.write("orders.csv", "order_id,order_date,customer_id\nA1,2024-01-01,C1\nA2,2024-01-02,C2\n");
  folder.write("products.csv", "product_id,colour\nP1,red\n");
  folder.write("customers.csv", "customer_id,region\nC1,North\n");
  const ImportRun run = import_intake(folder, kFourTables);
  ASSERT_TRUE(run.imported) << run.fault;
  std::string told;
  for (const intake::UnmatchedKey& key : run.imported->unmatched)
    told += fmt::format("{} {} not in {}, {} from line {}\n", intake::to_text(key.table), key.key,
                        intake::to_text(key.missing_in), key.rows, key.first_line);
  EXPECT_EQ(told,
            "lines A9 not in orders, 2 from line 3\norders A2 not in lines, 1 from line 3\n"
            "lines P7 not in products, 1 from line 4\norders C2 not in customers, 1 from line 3\n");
  ASSERT_EQ(run.rejected.size(), 2U);
  EXPECT_EQ(run.rejected[0].row, "A9,P1,1,3,3");
  EXPECT_EQ(run.rejected[0].reason, "has no row in orders");
  EXPECT_EQ(column_text(run.imported->built.daybook, "colour"), "product red ");
  EXPECT_EQ(run.imported->built.daybook.customers(), 1U) << "a customer without lines is not in the daybook";
}

TEST(Joins, RejectJoinsThatMultiplyLines) {
  const TemporaryFolder folder;
  folder.write("lines.csv", "order_id,product_id,quantity,unit_price\nA1,P1,1,2\n");
  folder.write("orders.csv",
               "order_id,order_date,customer_id\nA1,2024-01-01,C1\nA2,2024-01-02,C2\nA1,2024-01-03,C1\n");
  const std::string intake = "[lines]\nfile = \"lines.csv\"\n[orders]\nfile = \"orders.csv\"\n";
  EXPECT_EQ(import_intake(folder, intake).fault,
            "lines cannot be joined to orders by order_id: 1 row of orders would multiply lines, because "
            "their key occurs more than once: \"A1\" (lines 2 and 4 of orders.csv). Drop the surplus with "
            "[[duplicates]] in = \"orders\", or join by further columns in [joins].");
  const ImportRun run = import_intake(
      folder, intake + "[[duplicates]]\nin = \"orders\"\nsame = \"order_id\"\nkeep = \"last\"\n");
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(column_text(run.imported->built.daybook, "order_date"), "order 2024-01-03");
}

TEST(Joins, JoinBySeveralColumnsOfOtherNames) {
  const TemporaryFolder folder;
  folder.write("lines.csv",
               "order_id,shop,product_id,quantity,unit_price\n1,a,P1,1,2\n1,b,P1,1,3\n2,b,P1,1,4\n");
  folder.write("orders.csv",
               "no,branch,order_date,customer_id\n1,a,2024-01-01,C1\n1,b,2024-01-02,C2\n2,b,2024-01-03,C2\n");
  const ImportRun run = import_intake(folder,
                                      "[lines]\nfile = \"lines.csv\"\n[orders]\nfile = \"orders.csv\"\n"
                                      "[joins]\nlines_to_orders = [\"order_id = no\", \"shop = branch\"]\n");
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(column_text(run.imported->built.daybook, "order_date"), "order 2024-01-01 2024-01-02 2024-01-03");
  EXPECT_EQ(run.imported->joins[0].keys, "order_id = no, shop = branch");
}

}  // namespace
}  // namespace pear::test
