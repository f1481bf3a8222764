// Keys that are times.
#pragma once

#include "expression/aggregate/grouping.hpp"

namespace pear::analysis {

/// Whether the values are times, whose order must be kept.
[[nodiscard]] bool is_time(const expression::GroupKey& key);

/// Adds to the key of a year, quarter or month the labels between the first and the last that have no line,
/// so that a month without sales is shown instead of missing. Does not change other keys.
void fill_times(expression::GroupKey& key);

}  // namespace pear::analysis
