// Keys that are times.
#pragma once

#include "expression/aggregate/grouping.hpp"

namespace pear::analysis {

/// Whether the values are times, which have an order that is not to be changed.
[[nodiscard]] bool is_time(const expression::GroupKey& key);

/// Gives the key of a year, quarter or month also the labels between the first and the last that no line has,
/// so that a month without sales shows as one, and not as none. Leaves other keys alone.
void fill_times(expression::GroupKey& key);

}  // namespace pear::analysis
