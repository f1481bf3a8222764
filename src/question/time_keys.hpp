// Keys that are times.
#pragma once

#include <string_view>

#include "expression/grouping.hpp"

namespace pear {

/// Whether a column of this name and type is a time, so that its values have an order that is not to be
/// changed.
[[nodiscard]] bool is_time_key(std::string_view name, ValueType type);

/// Gives the key of a year, quarter or month also the labels between the first and the last that no line has,
/// so that a month without sales shows as one, and not as none. Leaves other keys alone.
void fill_times(std::string_view name, GroupKey& key);

}  // namespace pear
