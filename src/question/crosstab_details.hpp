// The lines behind a cell.
#pragma once

#include "base/error.hpp"
#include "question/crosstab_cells.hpp"
#include "result/result.hpp"

namespace pear {

/// Finds the cell that --details names, and adds a table with its lines to the result, with a check that the
/// figures of these lines alone are those of the cell. Errors: usage, for a key or value that is not there,
/// with a suggestion.
[[nodiscard]] OrError<void> add_details(const Crosstab& crosstab, const Grouping& grouping,
                                        const LineView& lines, const std::map<std::string, Grain>& grains,
                                        Result& result);

}  // namespace pear
