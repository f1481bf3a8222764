// Basket compositions and the pull of products, compared with SQL and a slow twin.
#include <cmath>
#include <map>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "daybook/columns/derived_columns.hpp"
#include "support/asking.hpp"
#include "support/results.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

const std::string kBought =
    "WITH bought AS (SELECT customer_id, order_id, substr(min(order_date), 1, 7) AS month, product_id,"
    " sum(amount_u) AS sales, coalesce(sum(cost_u), 0) AS cost, coalesce(sum(margin_u), 0) AS margin FROM "
    "lines"
    " WHERE NOT is_return GROUP BY customer_id, order_id, product_id ORDER BY length(product_id), "
    "product_id)";

RC_GTEST_PROP(Baskets, CompositionsAndSizesEqualSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const auto result = try_to_ask("baskets", {}, daybook);
  const daybook::Daybook with_margins = daybook::completed(daybook, {"cost", "margin"});
  if (!result || daybook::known_margins(with_margins).empty()) return;
  const LinesInSql sql(with_margins);
  const std::string sums =
      ", count(*) AS n, share(count(*), (SELECT count(*) FROM made)), sum(sales), sum(cost),"
      " sum(margin), (2 * sum(sales) + count(*)) / (2 * count(*))";
  const std::string made = kBought +
                           ", made AS (SELECT group_concat(product_id, ' + ') AS products, count(*) AS size,"
                           " sum(sales) AS sales, sum(cost) AS cost, sum(margin) AS margin FROM bought"
                           " GROUP BY customer_id, order_id)";
  const auto as_told = [](Cells rows, std::size_t first) {
    for (auto& row : rows)
      for (const std::size_t money : {0U, 1U, 2U, 3U}) row[first + money] = money_text(row[first + money]);
    return rows;
  };
  const std::vector<std::string> columns = {"baskets", "share", "sales", "cost", "margin", "average_value"};
  std::vector<std::string> of_make_ups = columns, of_sizes = columns;
  of_make_ups.insert(of_make_ups.begin(), {"products", "size"});
  of_sizes.insert(of_sizes.begin(), "size");
  const Cells ours = columns_of(table(*result, ""), of_make_ups);
  const Cells theirs = as_told(
      sql.ask(made + "SELECT products, size" + sums + " FROM made GROUP BY products ORDER BY n DESC, size"),
      4);
  RC_ASSERT(std::set(ours.begin(), ours.end()) == std::set(theirs.begin(), theirs.end()));
  for (std::size_t row = 0; row < ours.size(); ++row) RC_ASSERT(ours[row][2] == theirs[row][2]);
  RC_ASSERT(columns_of(table(*result, "sizes"), of_sizes) ==
            as_told(sql.ask(made + "SELECT size" + sums + " FROM made GROUP BY size ORDER BY size"), 3));
  expect_checks_hold(*result);
}

/// A basket as the slow twin sees it.
struct SlowBasket {
  std::string month;
  std::map<std::string, double> values;  // by product

  [[nodiscard]] double value() const {
    double sum = 0;
    for (const auto& [product, each] : values) sum += each;
    return sum;
  }
};

RC_GTEST_PROP(Baskets, ValuesOfItemsEqualTheSlowTwin, ()) {
  daybook::Daybook daybook = random_daybook();
  const bool with_costs =
      pick(0, 1) == 1 && !daybook::known_margins(daybook::completed(daybook, {"cost", "margin"})).empty();
  if (!with_costs) {
    daybook::DaybookParts parts = std::move(daybook).take_parts();
    std::erase_if(parts.columns, [](const daybook::Column& column) { return column.name == "unit_cost"; });
    daybook = daybook::Daybook(std::move(parts));
  }
  const int discount = pick(1, 100);
  const auto result = try_to_ask("baskets", {{"discount", std::to_string(discount) + "%"}}, daybook);
  if (!result) {
    RC_ASSERT(result.error().kind == ErrorKind::data);  // nothing was bought
    return;
  }
  const LinesInSql sql(with_costs ? daybook::completed(daybook, {"cost", "margin"}) : daybook);
  const std::string bought =
      with_costs ? kBought
                 : "WITH bought AS (SELECT customer_id, order_id, substr(min(order_date), 1, 7) AS"
                   " month, product_id, sum(amount_u) AS sales, sum(amount_u) AS margin FROM lines"
                   " WHERE NOT is_return GROUP BY customer_id, order_id, product_id)";
  std::map<std::pair<std::string, std::string>, SlowBasket> orders;
  std::map<std::string, double> sales;
  for (const auto& row :
       sql.ask(bought + "SELECT customer_id, order_id, month, product_id, margin, sales FROM bought")) {
    SlowBasket& basket = orders[{row[0], row[1]}];
    basket.month = row[2];
    basket.values[row[3]] = std::stod(row[4]) / Decimal::kScale;
    sales[row[3]] += std::stod(row[5]) / Decimal::kScale;
  }
  std::vector<SlowBasket> baskets;
  for (const auto& [order, basket] : orders) baskets.push_back(basket);
  const std::string value = with_costs ? "margin" : "sales";
  const result::Table& products = table(*result, "products");
  RC_ASSERT(products.rows() == sales.size());
  for (const auto& row :
       columns_of(products, {"product_id", "baskets", "single_item", "own_sales", "companions_" + value,
                             "basket_" + value, "more_baskets", "single_item_share"})) {
    double whole = 0, own = 0;
    int count = 0, single_item = 0;
    for (const SlowBasket& basket : baskets) {
      if (!basket.values.contains(row[0])) continue;
      whole += basket.value(), own += basket.values.at(row[0]), ++count;
      single_item += basket.values.size() == 1 ? 1 : 0;
    }
    RC_ASSERT(row[1] == std::to_string(count) && row[2] == std::to_string(single_item));
    RC_ASSERT(std::abs(std::stod(row[7]) - single_item / static_cast<double>(count)) < 1e-6);
    RC_ASSERT(std::abs(std::stod(row[3]) - sales[row[0]]) < 1e-6);
    RC_ASSERT(std::abs(std::stod(row[4]) - (whole - own)) < 1e-6);
    RC_ASSERT(std::abs(std::stod(row[5]) - whole) < 1e-6);
    const double lost = sales[row[0]] * discount / 100;
    if (row[6].empty()) {
      RC_ASSERT(whole <= lost + 1e-6);
    } else {  // enough, and one less would not be
      const double each = (whole - lost) / count, more = std::stod(row[6]);
      RC_ASSERT(each * (count + more) >= whole - 1e-4);
      RC_ASSERT(more == 0 || each * (count + more - 1) < whole + 1e-4);
    }
  }
}

/// Each customer buys two baskets of two products; "card" is in one of them, next to dearer products.
Sales sales_with_pull(int customers) {
  Sales sales;
  for (int i = 0; i < customers; ++i) {
    const std::string customer = fmt::format("C{}", i + 1);
    const auto buy = [&](int order, const std::string& product, std::int64_t cents) {
      sales.push_back({fmt::format("A{}", 2 * i + order), "2024-01-01", customer, product, 1, cents});
    };
    buy(1, "card", 100);
    buy(1, fmt::format("dear {}", i % 3), 9000 + 100 * (i % 7));
    buy(2, fmt::format("other {}", i % 4), 1000);
    buy(2, fmt::format("more {}", i % 5), 1000);
  }
  return sales;
}

TEST(Baskets, ReportsThePullingProduct) {
  const result::Result result = ask("baskets", {{"discount", "10%"}}, sales_with_pull(40));
  EXPECT_EQ(columns_of(table(result, "products"), {"product_id", "baskets", "pull", "more_baskets"})[0],
            (Cells::value_type{"card", "40", "82.875", "1"}));
  EXPECT_EQ(
      result.headline,
      (std::vector<std::string>{
          "0 of 80 baskets (0.0%) contain only one product; half contain 2 or fewer.",
          "card earns 1.00 sales per basket itself. The other products in its baskets earn 82.88 more than "
          "as many in similar baskets (95% interval 82.24 to 83.51).",
          "A 10% discount on it pays for itself if it brings 1 more basket, in addition to the 40 "
          "(+2.5%)."}));
  EXPECT_EQ(result.notes,
            (std::vector<std::string>{"The daybook has no costs, so sales are used instead of margins."}));
}

/// A daybook with a cost column that knows no cost of these products, or of one of them.
daybook::Daybook with_costs(std::vector<std::int64_t> costs) {
  daybook::DaybookParts parts =
      build({{"A1", "2024-01-01", "C1", "P1", 1, 1000}, {"A1", "2024-01-01", "C1", "P2", 1, 1000}})
          .daybook.take_parts();
  parts.columns.push_back({"unit_cost", daybook::Level::product, daybook::DecimalValues{std::move(costs)}});
  return daybook::Daybook(std::move(parts));
}

TEST(Baskets, MarginRatesAreOfLinesWithAKnownCost) {
  const std::int64_t none = daybook::kEmptyUnits, six = 6 * Decimal::kScale;
  const result::Result unknown = ask("baskets", {}, with_costs({none, none}));
  EXPECT_EQ(unknown.notes.front(), "The daybook has no costs, so sales are used instead of margins.");
  EXPECT_EQ(columns_of(table(unknown, "products"), {"product_id", "basket_sales"}),
            (Cells{{"P1", "20.00"}, {"P2", "20.00"}}));
  const result::Result one = ask("baskets", {}, with_costs({six, none}));
  EXPECT_EQ(columns_of(table(one, ""), {"sales", "cost", "margin", "margin_rate"}),
            (Cells{{"20.00", "6.00", "4.00", "0.400000"}}));
  EXPECT_EQ(columns_of(table(one, "products"), {"product_id", "own_margin_rate", "basket_margin_rate"}),
            (Cells{{"P1", "0.400000", "0.400000"}, {"P2", "", "0.400000"}}));
}

TEST(Baskets, NamesNoProductWithoutASignificantPull) {
  const result::Result result = ask("baskets", {{"discount", "10%"}}, sales_with_pull(4));
  EXPECT_EQ(result.headline, (std::vector<std::string>{"0 of 8 baskets (0.0%) contain only one product; half "
                                                       "contain 2 or fewer."}));
  for (const auto& row : columns_of(table(result, "products"), {"q_value"})) EXPECT_EQ(row[0], "");
}

TEST(Baskets, ReportsMistakes) {
  const daybook::Daybook daybook = build({{"A1", "2024-01-01", "C1", "P1", -1, 150}}).daybook;
  EXPECT_EQ(try_to_ask("baskets", {}, daybook).error().message, "nothing was bought, so there is no basket.");
  EXPECT_EQ(try_to_ask("baskets", {{"discount", "0%"}}, daybook).error().message,
            "--discount takes a share from 0.0001% to 100%, such as 0.05 or 5%, not \"0%\".");
}

}  // namespace
}  // namespace pear::test
