// Adds the sales of one daybook to another.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "daybook/daybook.hpp"
#include "daybook/line_table.hpp"

namespace pear::daybook {

/// The lines of both, to build a daybook from, and what was decided.
struct MergedLines {
  LineTable table;
  std::uint64_t lines_there_already = 0;  ///< duplicates, left out of the added lines
  std::uint64_t changed_values = 0;  ///< customers and products in both: the added daybook's value is kept
};

/// A line of `added` is a duplicate if `old` has one of the same customer, order, product, quantity, unit
/// price and amount; each line of `old` matches at most one. A column that one of them lacks is
/// empty there. `master`: columns that the added sales have from lists of customers and products; for a
/// member in both, the added value is kept unless it is empty. The lines keep their own values of all other
/// columns, whose level is determined again over all lines: a column that was constant for each customer so
/// far may vary between orders now. O(lines).
[[nodiscard]] MergedLines merge_daybooks(const Daybook& old, const Daybook& added,
                                         const std::vector<std::string>& master);

}  // namespace pear::daybook
