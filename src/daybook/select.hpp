// Builds a smaller daybook from a daybook.
#pragma once

#include <cstdint>
#include <vector>

#include "daybook/daybook.hpp"

namespace pear::daybook {

/// The daybook of the lines with `chosen[line]` = 1 (the other lines have 0): orders without such a line are
/// removed, and customers without such an order. Keeps every loaded column. Products keep their positions
/// even if no line refers to them; dictionaries keep their texts. O(members), on all threads; copies nothing
/// if all lines are chosen.
[[nodiscard]] Daybook select_lines(Daybook daybook, const std::vector<std::uint8_t>& chosen);

}  // namespace pear::daybook
