// The tables of a cross-tabulation.
#pragma once

#include <string>

#include "questions/crosstab/counts.hpp"

namespace pear::crosstab {

/// The readable form: a row for each place down with its subtotals, the total last; columns for each place
/// across.
[[nodiscard]] result::Table wide_table(const Crosstab& crosstab, const std::string& currency);
/// One row for each cell that has lines, without totals.
[[nodiscard]] result::Table long_table(const Crosstab& crosstab);
/// Whether the long table would have the rows of the wide one, but for the total and times without lines.
[[nodiscard]] bool repeats_main_table(const Crosstab& crosstab);

}  // namespace pear::crosstab
