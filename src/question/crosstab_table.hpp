// The tables of a cross-tabulation.
#pragma once

#include <string>

#include "question/crosstab_cells.hpp"

namespace pear {

/// As people read it: a row for each place down with its subtotals, the total last; columns for each place
/// across.
[[nodiscard]] Table wide_table(const Crosstab& crosstab, const std::string& currency);
/// One row a cell that has lines, without totals.
[[nodiscard]] Table long_table(const Crosstab& crosstab);

}  // namespace pear
