// Sales lines as read, before a daybook is built from them.
#pragma once

#include <cstdint>
#include <vector>

#include "base/text_array.hpp"
#include "daybook/column.hpp"

namespace pear::daybook {

/// A further column with one value a line, and the levels it may belong to, most preferred first. It is
/// assigned to the first of them for which it is constant, otherwise it stays with the lines.
struct CandidateColumn {
  Column column;
  std::vector<Level> levels;
  bool forced = false;  ///< it always goes to its one level; a member's latest value is kept
};

/// Lines in the order of the source. The arrays from `customer` to `is_return` have one value a line.
/// Customer, order and product are positions in the arrays of ids above them, which contain each id once, in
/// any order.
struct LineTable {
  TextArray customer_ids;
  TextArray order_ids;
  TextArray product_ids;
  std::vector<std::uint32_t> customer;
  std::vector<std::uint32_t> order;
  std::vector<std::uint32_t> product;
  std::vector<std::int32_t> days;
  std::vector<std::int32_t> seconds;  ///< empty if no line has a time of day
  std::vector<std::uint8_t> is_return;
  std::vector<CandidateColumn> columns;

  [[nodiscard]] std::size_t lines() const { return customer.size(); }
};

}  // namespace pear::daybook
