// List prices by day of validity, compared with the same prices on every line.
#include <map>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/date.hpp"
#include "support/importing.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

const std::string kWithPrices = "[lines]\nfile = \"lines.csv\"\n[prices]\nfile = \"prices.csv\"\n";

/// A product's prices by day, and the rows that define them: in any order, without an end where the next
/// price begins.
struct RandomPrices {
  std::map<std::int32_t, std::string> by_day;
  std::vector<std::string> rows;

  explicit RandomPrices(const std::string& product) {
    std::int32_t day = 19'700 + pick(-30, 60);
    for (int periods = pick(0, 4); periods > 0; --periods) {
      const int length = pick(1, 150);
      const std::string price = fmt::format("{}.{:02}", pick(1, 40), pick(0, 99));
      for (int i = 0; i < length; ++i) by_day[day + i] = price;
      const bool is_last = periods == 1;
      const int gap = is_last ? 0 : pick(0, 2) * 20;
      const bool without_end = !is_last && gap == 0 && pick(0, 1) == 1;
      rows.push_back(fmt::format("{},{},{},{}\n", product, price, to_text(Date{day}),
                                 without_end ? "" : to_text(Date{day + length - 1})));
      day += length + gap;
    }
  }
};

/// The price of a line itself counts; the list is for lines without one.
TEST(PriceList, FillsTheGapsOfThePricesOfLines) {
  const TemporaryFolder folder;
  folder.write("lines.csv",
               "order_id,order_date,customer_id,product_id,quantity,unit_price,list_price\n"
               "A1,2024-01-05,C1,P1,1,2,9\nA2,2024-02-05,C1,P1,1,2,\nA3,2024-02-06,C1,P2,1,2,\n");
  folder.write("prices.csv", "product_id,list_price,valid_from\nP1,3,2024-01-01\nP1,4,2024-02-01\n");
  const ImportRun run = import_intake(folder, kWithPrices);
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(column_text(run.imported->built.daybook, "list_price"), "line 9 4 ");
}

RC_GTEST_PROP(PriceList, EqualsPricesOnEachLine, ()) {
  const Sales sales = random_sales();
  std::map<std::string, RandomPrices> prices;
  for (const Sale& sale : sales) prices.try_emplace(sale.product_id, sale.product_id);
  std::string list = "product_id,list_price,valid_from,valid_to\nP99,1,,\n";
  for (const auto& [product, each] : prices)
    for (auto row = each.rows.rbegin(); row != each.rows.rend(); ++row) list += *row;
  std::string lines = "order_id,order_date,customer_id,product_id,quantity,unit_price",
              with = lines + ",list_price\n";
  lines += "\n";
  std::uint64_t without = 0;
  for (const Sale& sale : sales) {
    const std::string line =
        fmt::format("{},{},{},{},{},{}", sale.order_id, sale.date, sale.customer_id, sale.product_id,
                    sale.quantity, Decimal::from_units(sale.unit_price * 100).to_text());
    const auto& by_day = prices.at(sale.product_id).by_day;
    const auto found = by_day.find(parse_iso_moment(sale.date)->date.days);
    without += found == by_day.end() ? 1U : 0U;
    lines += line + "\n";
    with += line + "," + (found == by_day.end() ? "" : found->second) + "\n";
  }
  const TemporaryFolder folder;
  folder.write("lines.csv", lines);
  folder.write("prices.csv", list);
  const ImportRun ours = import_intake(folder, kWithPrices);
  const ImportRun theirs = import_text(with);
  RC_LOG() << ours.fault << "\n" << list << lines;
  RC_ASSERT(ours.imported.has_value());
  RC_ASSERT(theirs.imported.has_value());
  RC_ASSERT(column_text(ours.imported->built.daybook, "list_price") ==
            column_text(theirs.imported->built.daybook, "list_price"));
  RC_ASSERT(ours.imported->joins.size() == 1U);
  RC_ASSERT(ours.imported->joins.front().unmatched == without);
}

ImportRun with_list(const std::string& list, const std::string& products = "") {
  const TemporaryFolder folder;
  folder.write("lines.csv",
               "order_id,order_date,customer_id,product_id,quantity,unit_price\n"
               "A1,2024-01-01,C1,P1,1,2\nA2,2024-02-01,C1,P1,1,2\nA3,2024-02-01,C1,P2,1,2\n");
  folder.write("prices.csv", "product_id,list_price,valid_from,valid_to\n" + list);
  folder.write("products.csv", "product_id,list_price\n" + products);
  return import_intake(folder,
                       kWithPrices + (products.empty() ? "" : "[products]\nfile = \"products.csv\"\n"));
}

TEST(PriceList, MissingPricesComeFromTheProducts) {
  const ImportRun run = with_list("P1,3,2024-02-01,\n", "P1,2.50\nP2,4\n");
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(
      column_text(run.imported->built.daybook, "list_price"),
      column_text(import_text("order_id,order_date,customer_id,product_id,quantity,unit_price,list_price\n"
                              "A1,2024-01-01,C1,P1,1,2,2.50\nA2,2024-02-01,C1,P1,1,2,3\n"
                              "A3,2024-02-01,C1,P2,1,2,4\n")
                      .imported->built.daybook,
                  "list_price"));
}

TEST(PriceList, ReportsMistakes) {
  EXPECT_EQ(
      with_list("P1,3,2024-02-01,2024-01-01\n").fault,
      "[prices]: the price on line 2 of prices.csv ends on 2024-01-01, before it begins on 2024-02-01.");
  EXPECT_EQ(with_list("P1,3,2024-01-01,2024-01-31\nP1,4,2024-01-31,\n").fault,
            "[prices]: 1 product has two prices on one day: \"P1\" from 2024-01-31 (line 2 of prices.csv and "
            "line 3). Correct valid_to, or drop the surplus with [[duplicates]] in = \"prices\".");
  const ImportRun run = with_list("P1,,2024-01-01,\nP1,3,,\nP2,x,,\n");
  ASSERT_EQ(run.rejected.size(), 2U);
  EXPECT_EQ(run.rejected[0].reason, "is empty");
  EXPECT_EQ(run.rejected[1].reason, "is not a number");
}

}  // namespace
}  // namespace pear::test
