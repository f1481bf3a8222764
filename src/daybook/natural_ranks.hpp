// Sorts many ids at once.
#pragma once

#include <cstdint>
#include <vector>

#include "base/text_array.hpp"

namespace pear::daybook {

/// The positions of the texts, which are distinct, in natural order. O(n log n), on all threads.
[[nodiscard]] std::vector<std::uint32_t> natural_positions(const TextArray& texts);

/// ranks[positions[i]] = i: the rank of each member.
[[nodiscard]] std::vector<std::uint32_t> inverse(const std::vector<std::uint32_t>& positions);

}  // namespace pear::daybook
