#include "pushdown/population_in_sql.hpp"

#include <fmt/format.h>

#include "pushdown/answer_values.hpp"

namespace pear::pushdown {

OrError<result::Population> population_of(Session& session, const std::string& with, const std::string& lines,
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
      "SUM(fee_lines) AS fee_lines, MIN(first_day) AS first_day, MAX(last_day) AS last_day{} FROM ({}) AS "
      "pear_orders "
      "GROUP BY customer_id",
      columns.amounts ? ", SUM(amounts) AS amounts, SUM(fees) AS fees" : "", by_order);
  std::vector<std::string> names = {"customers", "orders",    "n",       "returned",
                                    "fee_lines", "first_day", "last_day"};
  if (columns.amounts) names.insert(names.end(), {"amounts", "fees"});
  const std::string all = fmt::format(
      "SELECT COUNT(*) AS customers, SUM(orders) AS orders, SUM(n) AS n, SUM(returned) AS returned, "
      "SUM(fee_lines) AS fee_lines, "
      "MIN(first_day) AS first_day, MAX(last_day) AS last_day{} FROM ({}) AS pear_customers",
      columns.amounts ? ", SUM(amounts) AS amounts, SUM(fees) AS fees" : "", by_customer);
  PEAR_ASSIGN(const SqlRows rows, session.rows(with, all, names));
  if (rows.empty()) return result::Population{};  // only explained
  const std::vector<SqlValue>& row = rows[0];
  std::vector<Int128> numbers;
  for (std::size_t i = 0; i < row.size(); ++i) {
    const bool is_day = i == 5 || i == 6;
    PEAR_ASSIGN(const Int128 number, is_day ? OrError<Int128>(Int128{0}) : whole(row[i]));
    numbers.push_back(number);
  }
  const auto count = [&](std::size_t i) { return static_cast<std::uint64_t>(numbers[i]); };
  result::Population population{count(0), count(1), count(2), count(3), {}, {}, {}, count(4), {}};
  if (row[5]) {
    PEAR_ASSIGN(const std::int32_t first, day(*row[5]));
    PEAR_ASSIGN(const std::int32_t last, day(*row[6]));
    population.first_date = Date{first};
    population.last_date = Date{last};
  }
  const auto money = [&](std::size_t i) -> std::optional<Decimal> {
    if (numbers[i] > INT64_MAX || numbers[i] <= INT64_MIN) return std::nullopt;
    return Decimal::from_units(static_cast<std::int64_t>(numbers[i]));
  };
  if (columns.amounts) population.amount = money(7);
  if (columns.amounts && columns.fees) population.fees = money(8);
  return population;
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
