// Columns along each customer's history: of its orders, and of its purchases of a product.
#pragma once

#include <optional>
#include <string_view>

#include "daybook/daybook.hpp"

namespace pear::daybook {

/// Of orders: order_number (1, 2, ...), orders_left (how many follow), days_since_first, months_since_first
/// (whole months since the first order's day: 0 until the day before the same day of the next month),
/// days_since_previous (0 on the same day, empty for the first), is_first_order, order_kind ("new" for the
/// first order, "returning" for what follows it). Of lines: purchase_number (which of the customer's orders
/// with this product it is), days_since_last_purchase (empty for the first), is_new_product. Orders that
/// contain only returns are no orders, and returned lines and fees no purchases: they are empty, or false;
/// order_kind also covers returns after the first order. O(lines), for purchases O(lines log lines of a
/// customer), on all threads. Needs order_date and is_return; purchases also the products of lines.
[[nodiscard]] std::optional<Column> order_history_column(std::string_view name, const Daybook& daybook);

[[nodiscard]] bool is_order_history_column(std::string_view name);
/// Whether it is one of lines, which depends on their products.
[[nodiscard]] bool is_purchase_history_column(std::string_view name);

}  // namespace pear::daybook
