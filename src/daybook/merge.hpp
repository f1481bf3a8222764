// Adding the sales of one daybook to another.
#pragma once

#include <cstdint>

#include "daybook/daybook.hpp"
#include "daybook/line_table.hpp"

namespace pear::daybook {

/// The lines of both, to be built anew, and what had to be decided.
struct MergedLines {
  LineTable table;
  std::uint64_t lines_there_already = 0;  ///< left out of the added ones
  std::uint64_t changed_values = 0;       ///< of customers and products: the added daybook's count
};

/// A line of `added` is there already where `old` has one of the same customer, order, product, quantity,
/// unit price and amount; each line of `old` stands for one. A column that both have at the same level keeps
/// it, and of a member that both know the added value counts; a column that one of them lacks is empty there.
/// O(lines).
[[nodiscard]] MergedLines merge_daybooks(const Daybook& old, const Daybook& added);

}  // namespace pear::daybook
