// ROW_NUMBER, RANK, NTILE, percentiles and deviations, against SQL and by hand.
#include <algorithm>
#include <cmath>
#include <map>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "daybook/columns/derived_columns.hpp"
#include "expression/aggregate/accumulators.hpp"
#include "support/asking.hpp"
#include "support/results.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

/// The place of each order of a customer by its date, and each customer's decile of the amount.
RC_GTEST_PROP(Places, EqualSql, ()) {
  const daybook::Daybook daybook = build(random_sales()).daybook;
  const LinesInSql sql(daybook::completed(daybook, {"customer_amount", "customer_orders"}));
  const std::string ranked =
      "WITH orders AS (SELECT customer_id, order_id, min(rowid) AS place, min(order_date) AS day FROM lines "
      "WHERE customer_id || '|' || order_id IN (SELECT customer_id || '|' || order_id FROM lines WHERE NOT "
      "is_return) GROUP BY 1, 2) ";
  const auto ours = [&](const std::string& expression) {
    return without_total(cells_of(
        ask("crosstab", {{"down", expression + " as place"}, {"count", "orders"}}, daybook).tables.front()));
  };
  const auto theirs = [&](const std::string& function) {
    return sql.ask(
        fmt::format("{}SELECT {} AS n, count(*) FROM (SELECT {} AS n FROM orders) GROUP BY n ORDER BY n",
                    ranked, "n", function));
  };
  const auto by_place = [](Cells cells) {
    std::erase_if(cells, [](const auto& row) { return row[0] == "(empty)"; });
    return cells;
  };
  RC_ASSERT(by_place(ours("row_number() over (partition by customer_id order by order_date)")) ==
            theirs("row_number() OVER (PARTITION BY customer_id ORDER BY day, place)"));
  RC_ASSERT(by_place(ours("rank() over (partition by customer_id order by order_date desc)")) ==
            theirs("rank() OVER (PARTITION BY customer_id ORDER BY day DESC)"));
  const int parts = pick(1, 5);
  const result::Result of_customers =
      ask("crosstab",
          {{"down", fmt::format("ntile({}) over (order by customer_amount desc) as part", parts)},
           {"count", "count(customer_id) filter (where customer_orders > 0) as customers"}},
          daybook);
  Cells found = without_total(cells_of(of_customers.tables.front()));
  std::erase_if(found, [](const auto& row) { return row[0] == "(empty)" || row[1] == "0"; });
  RC_ASSERT(found ==
            sql.ask(fmt::format(
                "SELECT n, count(*) FROM (SELECT ntile({}) OVER (ORDER BY amount DESC, place) AS n FROM "
                "(SELECT customer_id, sum(amount_u) AS amount, min(rowid) AS place, sum(NOT is_return) AS "
                "bought FROM lines GROUP BY 1) WHERE bought > 0) GROUP BY n ORDER BY n",
                parts)));
}

TEST(Places, NeedAnOrder) {
  const daybook::Daybook daybook = build({{"A1", "2024-01-01", "C1", "P1", 1, 150}}).daybook;
  const auto fault = [&](const std::string& expression) {
    const auto result = try_to_ask("crosstab", {{"down", expression}}, daybook);
    return result ? "" : result.error().message;
  };
  EXPECT_EQ(fault("row_number() over (partition by customer_id)"),
            "--down: row_number needs OVER (PARTITION BY customer_id ORDER BY ...), or OVER (ORDER BY ...) "
            "(column 1)");
  EXPECT_EQ(fault("ntile(0) over (order by amount)"),
            "--down: NTILE needs a whole number of 1 or more, such as NTILE(10) (column 7)");
  EXPECT_EQ(fault("sum(amount) over (order by amount)"),
            "--down: ORDER BY is possible in ROW_NUMBER, RANK, NTILE and PERCENTILE_CONT, not in sum (column "
            "1)");
}

/// The value at a share of the way through the sorted values, and the root of the mean square difference.
RC_GTEST_PROP(Figures, PercentilesAndDeviationsAreThoseOfTheirValues, ()) {
  std::vector<std::int64_t> values;
  for (int i = pick(1, 12); i > 0; --i) values.push_back(pick(-9, 99) * Decimal::kScale);
  std::sort(values.begin(), values.end());
  const int share = pick(0, 100);
  const double place = share / 100.0 * static_cast<double>(values.size() - 1);
  const auto low = static_cast<std::size_t>(std::floor(place + 1e-9));
  const auto high = std::min(low + 1, values.size() - 1);
  const double between = std::max(0.0, place - static_cast<double>(low));
  const double expected =
      static_cast<double>(values[low]) * (1 - between) + static_cast<double>(values[high]) * between;
  RC_ASSERT(std::abs(static_cast<double>(expression::percentile_of(values, share * 100)) - expected) <= 1);
  double sum = 0, squares = 0;
  for (const std::int64_t value : values) sum += static_cast<double>(value);
  for (const std::int64_t value : values)
    squares += std::pow(static_cast<double>(value) - sum / static_cast<double>(values.size()), 2);
  const auto count = static_cast<double>(values.size());
  RC_ASSERT(std::abs(static_cast<double>(expression::deviation_of(values, false)) -
                     std::sqrt(squares / count)) <= 1);
  const std::int64_t of_sample = expression::deviation_of(values, true);
  if (values.size() == 1)
    RC_ASSERT(of_sample == daybook::kEmptyUnits);
  else
    RC_ASSERT(std::abs(static_cast<double>(of_sample) - std::sqrt(squares / (count - 1))) <= 1);
}

/// The class of a customer or product in any question is that of `concentration` over the whole daybook.
RC_GTEST_PROP(Classes, AreThoseOfConcentration, ()) {
  const daybook::Daybook daybook = build(random_sales()).daybook;
  for (const std::string member : {"customer", "product"}) {
    const std::string id = member + "_id";
    const Cells ranked =
        columns_of(ask("concentration", {{"per", id}}, daybook).tables.front(), {id, "class"});
    std::map<std::string, std::string> expected;
    for (const auto& row : ranked) expected[row[0]] = row[1];
    const result::Result cells =
        ask("crosstab", {{"down", id}, {"count", fmt::format("min({}_class) as class", member)}}, daybook);
    for (const auto& row : without_total(columns_of(cells.tables.front(), {id, "class"})))
      RC_ASSERT(row[1] == expected[row[0]]);
  }
}

}  // namespace
}  // namespace pear::test
