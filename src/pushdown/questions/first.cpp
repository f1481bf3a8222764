#include "pushdown/questions/first.hpp"

#include <algorithm>
#include <memory>
#include <string_view>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <fmt/format.h>

#include "pushdown/lines_as_daybook.hpp"
#include "questions/first/question.hpp"

namespace pear::pushdown {
namespace {

/// The statements of first.
class FirstStatements {
 public:
  FirstStatements(const first::Options& options, const SelectedLines& lines)
      : options_(options), lines_(lines), dialect_(lines.scope.dialect) {}

  /// The lines of each customer's first two days with an order, all those of customers who only returned
  /// something, and, of each value of --per, those of the first day on which the customer bought it. More
  /// than first orders, as the order within a day is known only on this side.
  [[nodiscard]] OrError<std::string> shown_lines() const {
    std::string first_of_value,
        condition = "first_day IS NULL OR order_date = first_day OR order_date = second_day";
    if (options_.per) {
      PEAR_ASSIGN(const std::vector<SqlKey> key, keys_of("per", {*options_.per}, lines_));
      first_of_value = fmt::format(
          ", MIN(CASE WHEN NOT is_return{} THEN order_date END) OVER (PARTITION BY customer_id, {}) AS "
          "value_day",
          lines_.scope.warehouse.fees ? " AND NOT is_fee" : "", key.front().sql);
      condition += " OR order_date = value_day";
    }
    const std::string second_day =
        "MIN(CASE WHEN NOT is_return AND order_date > first_day THEN order_date END) OVER (PARTITION BY "
        "customer_id) AS second_day";
    return fmt::format(
        "(SELECT * FROM (SELECT pear_lines.*, {}{} FROM ({}) AS pear_lines) AS pear_lines WHERE {}) AS "
        "pear_lines",
        second_day, first_of_value, with_first_days(), condition);
  }

  /// Orders by the days since the customer's previous one, and the latest day of a first order.
  OrError<std::int64_t> usual_run_in(Date begin, Date end) const {
    const std::string orders =
        "SELECT customer_id, order_id, MIN(order_date) AS on_day FROM pear_lines WHERE NOT is_return GROUP "
        "BY "
        "customer_id, order_id";
    const std::string gaps = fmt::format(
        "SELECT on_day, {} AS gap FROM ({}) AS pear_orders",
        dialect_.days_between("on_day", "LAG(on_day) OVER (PARTITION BY customer_id ORDER BY on_day)"),
        orders);
    PEAR_ASSIGN(
        const SqlRows rows,
        lines_.session.rows(lines_.with,
                            fmt::format("SELECT gap, COUNT(*) AS n, MAX(on_day) AS latest FROM ({}) AS "
                                        "pear_gaps WHERE gap IS NULL OR gap > 0 GROUP BY gap",
                                        gaps),
                            {"gap", "n", "latest"}));
    std::vector<std::uint64_t> orders_by_gap(static_cast<std::size_t>(days_between(begin, end)) + 1);
    Date latest_first = begin;
    for (const auto& row : rows) {
      if (!row[0]) {
        PEAR_ASSIGN(latest_first.days, day(*row[2]));
        continue;
      }
      PEAR_ASSIGN(const std::int64_t gap, whole64(row[0]));
      PEAR_ASSIGN(const std::int64_t n, whole64(row[1]));
      orders_by_gap[static_cast<std::size_t>(gap)] = static_cast<std::uint64_t>(n);
    }
    return first::usual_run_in(orders_by_gap, latest_first, begin, end);
  }

  /// Completes what the shown lines do not determine: the orders and amounts of all days.
  OrError<void> complete(const daybook::Daybook& shown, std::vector<first::FirstOrders>& beginnings) const {
    absl::flat_hash_map<std::string_view, std::uint32_t> customers;
    for (std::uint32_t i = 0; i < shown.customers(); ++i) customers.emplace(shown.customer_ids()[i], i);
    const std::string followed =
        fmt::format("order_date <= {}", dialect_.days_later("first_day", options_.follow - 1));
    PEAR_ASSIGN(
        const SqlRows rows,
        lines_.session.rows(
            lines_.with,
            fmt::format("SELECT customer_id, COUNT(DISTINCT CASE WHEN NOT is_return THEN order_id END) "
                        "AS orders, COUNT(DISTINCT CASE WHEN NOT is_return AND {0} THEN order_id END) AS "
                        "followed, SUM(CASE WHEN order_date > first_day AND {0} THEN amount END) AS "
                        "later, SUM(amount) AS amount FROM ({1}) AS pear_customers GROUP BY customer_id",
                        followed, with_first_days()),
            {"customer_id", "orders", "followed", "later", "amount"}));
    for (const auto& row : rows) {
      first::FirstOrders& beginning = beginnings[customers.at(*row[0])];
      PEAR_ASSIGN(beginning.amount, whole64(row[4]));
      if (!beginning.has_order()) continue;
      PEAR_ASSIGN(const std::int64_t orders, whole64(row[1]));
      PEAR_ASSIGN(const std::int64_t within, whole64(row[2]));
      PEAR_ASSIGN(const std::int64_t later, whole64(row[3]));
      beginning.orders = static_cast<std::uint32_t>(orders);
      beginning.later_orders = static_cast<std::uint32_t>(within - 1);
      beginning.too_large |= __builtin_add_overflow(beginning.later_amount, later, &beginning.later_amount);
    }
    return {};
  }

 private:
  const first::Options& options_;
  const SelectedLines& lines_;
  const Dialect& dialect_;
};

}  // namespace

OrError<result::Result> answer_first(const analysis::OptionValues& values, const SelectedLines& lines,
                                     const analysis::QuestionInput& input) {
  PEAR_ASSIGN(const first::Options options, analysis::read_options(first::option_declarations(), values));
  const FirstStatements statements(options, lines);
  PEAR_ASSIGN(const std::string shown, statements.shown_lines());
  const Date begin = *input.population.first_date;
  PEAR_ASSIGN(const std::int64_t usual, options.run_in ? OrError<std::int64_t>(*options.run_in)
                                                       : statements.usual_run_in(begin, input.data_end));
  analysis::QuestionInput of_shown = input;
  PEAR_ASSIGN(of_shown.daybook, lines_as_daybook(lines, shown));
  // Followed for the first day only: the later days are not among the shown lines.
  std::vector<first::FirstOrders> beginnings = first::first_orders_of(
      of_shown.daybook, 1, Date{begin.days + static_cast<std::int32_t>(usual)}, input.data_end);
  PEAR_TRY(statements.complete(of_shown.daybook, beginnings));
  for (first::FirstOrders& beginning : beginnings)
    if (beginning.has_order())
      beginning.followed =
          of_shown.daybook.date_of_order(beginning.first).days + options.follow - 1 <= input.data_end.days;
  if (lines.session.explains()) return result::Result{};
  PEAR_ASSIGN(const std::shared_ptr<const first::Counts> counts,
              first::count_from(std::move(beginnings), usual, std::move(of_shown), options));
  return first::result_of(counts);
}

}  // namespace pear::pushdown
