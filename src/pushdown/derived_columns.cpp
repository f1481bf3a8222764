#include "pushdown/derived_columns.hpp"

#include <fmt/format.h>

namespace pear::pushdown {

std::optional<std::string> derived_of_line(std::string_view name, const Dialect& dialect) {
  const std::string date = "order_date", cost = dialect.product("quantity", "unit_cost");
  if (name == "cost") return cost;
  if (name == "margin") return fmt::format("(amount - {})", cost);
  if (name == "year") return dialect.part_of(expression::Op::year_of, date);
  if (name == "month_of_year") return dialect.part_of(expression::Op::month_of, date);
  if (name == "quarter") return dialect.label_of(DayLabel::quarter, date);
  if (name == "month") return dialect.label_of(DayLabel::month, date);
  if (name == "week") return dialect.label_of(DayLabel::week, date);
  if (name == "weekday") return dialect.label_of(DayLabel::weekday, date);
  if (name == "hour") return "(order_time / 3600 * 10000)";
  return std::nullopt;
}

std::optional<std::string> derived_of_history(std::string_view name, const Dialect& dialect, bool has_fees) {
  const std::string first = "MIN(CASE WHEN NOT is_return THEN order_date END)";
  if (name == "first_order_date") return first;
  if (name == "last_order_date") return "MAX(CASE WHEN NOT is_return THEN order_date END)";
  if (name == "first_year") return dialect.part_of(expression::Op::year_of, first);
  if (name == "first_month") return dialect.label_of(DayLabel::month, first);
  if (name == "customer_orders") return "COUNT(DISTINCT CASE WHEN NOT is_return THEN order_id END) * 10000";
  if (name == "customer_products")
    return fmt::format("COUNT(DISTINCT CASE WHEN NOT is_return{} THEN product_id END) * 10000",
                       has_fees ? " AND NOT is_fee" : "");
  if (name == "customer_amount") return "SUM(amount)";
  return std::nullopt;
}

}  // namespace pear::pushdown
