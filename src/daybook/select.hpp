// A smaller daybook out of a daybook.
#pragma once

#include <cstdint>
#include <vector>

#include "daybook/daybook.hpp"

namespace pear::daybook {

/// The daybook of the lines with `chosen[line]` = 1, of 0 and 1: orders without such a line are gone, and
/// customers without such an order. Every column that is loaded comes along. Products keep their positions,
/// whether or not a line speaks of them; dictionaries keep their texts. O(members), on all threads; where all
/// lines are chosen nothing is copied.
[[nodiscard]] Daybook select_lines(Daybook daybook, const std::vector<std::uint8_t>& chosen);

}  // namespace pear::daybook
