// Columns of customers and products computed from the whole history.
#pragma once

#include <optional>
#include <string_view>

#include "daybook/daybook.hpp"

namespace pear::daybook {

/// One of first_order_date, first_year, first_month ("2024-09"), last_order_date, customer_orders,
/// customer_products (distinct), customer_amount, customer_class and product_class (see value_classes).
/// Orders that contain only returns are not orders, and returned lines are not purchases of a product; the
/// amount is net of returns. A customer who only returned has no dates and 0 orders. An amount out of range
/// is empty. O(lines), on all threads. Needs order_date and is_return; customer_products also the products of
/// lines, customer_amount and customer_class the amounts, product_class both.
[[nodiscard]] std::optional<Column> history_column(std::string_view name, const Daybook& daybook);

[[nodiscard]] bool is_history_column(std::string_view name);

}  // namespace pear::daybook
