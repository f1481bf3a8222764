// Which lines belong to which order, and the order of orders in time.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "daybook/line_table.hpp"

namespace pear::daybook {

/// The nesting of a daybook over the lines of a line table.
struct OrderIndex {
  std::vector<std::uint32_t> order_offsets;   ///< per customer in natural order, and the end
  std::vector<std::uint32_t> line_offsets;    ///< per order, and the end
  std::vector<std::uint32_t> order_codes;     ///< per order: position in LineTable::order_ids
  std::vector<std::int32_t> order_days;       ///< per order
  std::vector<std::int32_t> order_seconds;    ///< per order; empty where the lines have no times
  std::vector<std::uint32_t> line_positions;  ///< per line of the daybook: its position in the line table
  std::uint64_t orders_with_two_dates =
      0;                               ///< orders whose lines have different moments; the earliest is kept
  std::uint64_t shared_order_ids = 0;  ///< orders whose id an earlier line gave to another customer
};

/// Groups lines by (customer, order id), and sorts customers, orders and lines as the daybook does. Frees the
/// arrays customer, order, days and seconds of the table on the way, to keep memory low. `customer_ranks` and
/// `product_ranks` are the natural ranks of the ids. O(lines) except for sorting each customer's orders and
/// each order's lines; on all threads where that is faster.
[[nodiscard]] OrderIndex index_orders(LineTable& table, const std::vector<std::uint32_t>& customer_ranks,
                                      const std::vector<std::uint32_t>& product_ranks);

}  // namespace pear::daybook
