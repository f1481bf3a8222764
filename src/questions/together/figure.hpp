// The figures of together.
#pragma once

#include <vector>

#include "questions/together/counts.hpp"
#include "result/figure.hpp"

namespace pear::together {

/// The pairs with the largest lift; the lift of every pair of the most frequent items; the strongest pairs as
/// a network. None without a significant pair.
[[nodiscard]] std::vector<result::Figure> figures_of(const Counts& counts);

}  // namespace pear::together
