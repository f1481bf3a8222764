// The most frequent values of a key, and the others together.
#pragma once

#include <cstdint>

#include "expression/aggregate/grouping.hpp"

namespace pear::analysis {

/// Keeps this many values of the key that most of its members have, in their order, and combines the others
/// in "other (N)" after them, which makes the labels texts. Returns how many are combined; 0 and the key
/// unchanged if it has no more. O(members).
std::uint32_t keep_most_frequent(expression::GroupKey& key, std::uint32_t most);

}  // namespace pear::analysis
