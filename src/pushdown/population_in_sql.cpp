#include "pushdown/population_in_sql.hpp"

#include <fmt/format.h>

#include "pushdown/answer_values.hpp"

namespace pear::pushdown {

OrError<CountedLines> count_lines(Session& session, const std::string& with, const std::string& lines,
                                  const PopulationColumns& columns) {
  // By order first: counting distinct orders would sort all lines.
  const std::string by_order = fmt::format(
      "SELECT customer_id, order_id, COUNT(*) AS n, COUNT(CASE WHEN is_return THEN 1 END) AS returned, {} AS "
      "fee_lines, MIN(order_date) AS first_day, MAX(order_date) AS last_day{} FROM {} GROUP BY customer_id, "
      "order_id",
      columns.fees ? "COUNT(CASE WHEN NOT is_return AND is_fee THEN 1 END)" : "0",
      columns.amounts ? fmt::format(", SUM(amount) AS amounts, {} AS fees",
                                    columns.fees ? "SUM(CASE WHEN is_fee THEN amount END)" : "0")
                      : "",
      lines);
  const std::string by_customer = fmt::format(
      "SELECT customer_id, SUM(n) AS n, SUM(returned) AS returned, COUNT(CASE WHEN n > returned THEN 1 END) "
      "AS orders, "
      "COUNT(CASE WHEN first_day < last_day THEN 1 END) AS two_dates, SUM(fee_lines) AS fee_lines, "
      "MIN(first_day) AS "
      "first_day, MAX(last_day) AS last_day{} FROM ({}) AS pear_orders GROUP BY customer_id",
      columns.amounts ? ", SUM(amounts) AS amounts, SUM(fees) AS fees" : "", by_order);
  const std::string all = fmt::format(
      "SELECT COUNT(*) AS customers, SUM(orders) AS orders, SUM(n) AS n, SUM(returned) AS returned, "
      "SUM(fee_lines) AS "
      "fee_lines, SUM(two_dates) AS two_dates, MIN(first_day) AS first_day, MAX(last_day) AS last_day{} FROM "
      "({}) AS "
      "pear_customers",
      columns.amounts ? ", SUM(amounts) AS amounts, SUM(fees) AS fees" : "", by_customer);
  std::vector<std::string> names = {"first_day", "last_day", "customers", "orders",
                                    "n",         "returned", "fee_lines", "two_dates"};
  if (columns.amounts) names.insert(names.end(), {"amounts", "fees"});
  PEAR_ASSIGN(const SqlRows rows, session.rows(with, all, names));
  if (rows.empty()) return CountedLines{};  // only explained
  const std::vector<SqlValue>& row = rows[0];
  std::vector<Int128> numbers(2);  // after the days
  for (std::size_t i = 2; i < row.size(); ++i) {
    PEAR_ASSIGN(const Int128 number, whole(row[i]));
    numbers.push_back(number);
  }
  const auto count = [&](std::size_t i) { return static_cast<std::uint64_t>(numbers[i]); };
  CountedLines counted{{count(2), count(3), count(4), count(5), {}, {}, {}, count(6), {}}, count(7)};
  result::Population& population = counted.population;
  if (row[0]) {
    PEAR_ASSIGN(const std::int32_t first, day(*row[0]));
    PEAR_ASSIGN(const std::int32_t last, day(*row[1]));
    population.first_date = Date{first};
    population.last_date = Date{last};
  }
  const auto money = [&](std::size_t i) -> std::optional<Decimal> {
    if (numbers[i] > INT64_MAX || numbers[i] <= INT64_MIN) return std::nullopt;
    return Decimal::from_units(static_cast<std::int64_t>(numbers[i]));
  };
  if (columns.amounts) population.amount = money(8);
  if (columns.amounts && columns.fees) population.fees = money(9);
  return counted;
}

OrError<std::uint64_t> rows_of_table(Session& session, const std::string& with) {
  PEAR_ASSIGN(
      const SqlRows rows,
      session.rows(with,
                   "SELECT SUM(n) AS n FROM (SELECT customer_id, COUNT(*) AS n FROM pear_raw GROUP BY "
                   "customer_id) AS pear_customers",
                   {"n"}));
  PEAR_ASSIGN(const std::int64_t count, rows.empty() ? std::int64_t{0} : whole64(rows[0][0]));
  return static_cast<std::uint64_t>(count);
}

}  // namespace pear::pushdown
