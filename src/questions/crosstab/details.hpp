// The lines of a cell.
#pragma once

#include "base/error.hpp"
#include "questions/crosstab/counts.hpp"
#include "result/result.hpp"

namespace pear::crosstab {

/// Finds the cell that --details names, and adds a table with its lines to the result, with a check that the
/// figures of only these lines equal those of the cell. Errors: usage, for a key or value that does not
/// exist, with a suggestion.
[[nodiscard]] OrError<void> add_details(const Crosstab& crosstab, const expression::Grouping& grouping,
                                        const expression::LineView& lines,
                                        const std::map<std::string, expression::Grain>& grains,
                                        result::Result& result);

}  // namespace pear::crosstab
