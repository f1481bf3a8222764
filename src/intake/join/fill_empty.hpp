// Values of one table where another has none.
#pragma once

#include <cstdint>
#include <vector>

#include "daybook/column.hpp"

namespace pear::intake {

/// Gives each empty member of `ours` the value of its row of `theirs` (kNoMember: none), of the same type.
/// Returns how many. O(members).
std::uint64_t fill_empty(daybook::ColumnValues& ours, const daybook::ColumnValues& theirs,
                         const std::vector<std::uint32_t>& row_of);

}  // namespace pear::intake
