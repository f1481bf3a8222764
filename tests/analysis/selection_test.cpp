// Selections, and aggregates over partitions, compared with slow twins.
#include <map>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "daybook/columns/derived_columns.hpp"
#include "support/asking.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

RC_GTEST_PROP(Selection, PartitionsAreComputedBeforeSelecting, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const int orders = pick(1, 4);
  const std::string condition = fmt::format(
      "count(*) over (partition by customer_id, product_id) + max(quantity) over () - "
      "min(quantity) over (partition by region) > {} and quantity > 0",
      orders);
  const auto result = try_to_ask("frequency", {{"where", condition}}, daybook);
  const std::string lines = sql.ask(fmt::format(
      "SELECT count(*) FROM (SELECT quantity, {} AS chosen FROM lines) WHERE chosen", condition))[0][0];
  if (result) {
    RC_ASSERT(std::to_string(result->population.lines) == lines);
  } else {
    RC_ASSERT(lines == "0");
  }
}

RC_GTEST_PROP(Selection, CombinesDaysReturnsAndConditions, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const Date from{19'700 + pick(0, 300)};
  const Date to{from.days + pick(0, 200)};
  const auto result = try_to_ask("frequency",
                                 {{"where", "region = 'North' or category = 'yarn'"},
                                  {"from", to_text(from)},
                                  {"to", to_text(to)},
                                  {"returns", "ignore"}},
                                 daybook);
  const auto counts = sql.ask(fmt::format(
      "SELECT count(*), count(DISTINCT customer_id), count(DISTINCT customer_id || '|' || order_id), "
      "sum(amount_u) FROM lines "
      "WHERE (region = 'North' OR category = 'yarn') AND order_date BETWEEN '{}' AND '{}' AND NOT is_return",
      to_text(from), to_text(to)))[0];
  if (!result) {
    RC_ASSERT(counts[0] == "0");
    return;
  }
  RC_ASSERT(std::to_string(result->population.lines) == counts[0]);
  RC_ASSERT(std::to_string(result->population.customers) == counts[1]);
  RC_ASSERT(std::to_string(result->population.orders) == counts[2]);
  RC_ASSERT(std::to_string(result->population.amount->units()) == counts[3]);
  RC_ASSERT(result->whole->lines == daybook.lines());
}

TEST(Selection, ReportsMistakes) {
  const daybook::Daybook daybook = build({{"A1", "2024-01-01", "C1", "P1", 1, 100}}).daybook;
  const auto fault = [&](const analysis::OptionValues& options) {
    const auto result = try_to_ask("frequency", options, daybook);
    return result ? std::string() : result.error().message;
  };
  EXPECT_EQ(fault({{"where", "product_id = 5"}}),
            "--where: \"product_id\" is text, which cannot be compared with the number 5 (column 14)");
  EXPECT_EQ(fault({{"where", "amout > 5"}}),
            "--where: there is no column \"amout\". Did you mean \"amount\"? (column 1)");
  EXPECT_EQ(fault({{"where", "amount"}}), "--where: \"amount\" is not a condition (column 1)");
  EXPECT_EQ(fault({{"where", "sum(amount) > 5"}}),
            "--where: an aggregate needs many lines, but this is evaluated for one line at a time; write "
            "OVER (PARTITION BY ...) after the aggregate (column 1)");
  EXPECT_EQ(fault({{"where", "amount / (quantity - 1) > 1"}}),
            "--where: \"amount / (quantity - 1) > 1\" divides by zero or leaves the range of numbers or "
            "dates. Use CASE WHEN ... to exclude such rows.");
  EXPECT_EQ(
      fault({{"from", "1.4.2024"}}),
      "--from takes a day such as 2024-04-01, a month or year such as 2024-04 or 2024, or a time before the "
      "end of the data such as \"last 12 months\", \"end of last quarter\" or \"30 days ago\", not "
      "\"1.4.2024\".");
  EXPECT_EQ(fault({{"from", "2024-04-02"}, {"to", "2024-04-01"}}),
            "--from 2024-04-02 is later than --to 2024-04-01, so no day is selected.");
  EXPECT_EQ(fault({{"where", "product_id = 'p1'"}}),
            "the selection (product_id = 'p1') contains none of the 1 line, which range from 2024-01-01 to "
            "2024-01-01. No product_id is \"p1\". Did you mean \"P1\"?");
}

}  // namespace
}  // namespace pear::test
