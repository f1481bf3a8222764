// The figures of baskets.
#pragma once

#include <vector>

#include "questions/baskets/counts.hpp"
#include "result/figure.hpp"

namespace pear::baskets {

/// The most frequent compositions; and each item by what it earns and what the rest of its baskets earns.
[[nodiscard]] std::vector<result::Figure> figures_of(const Counts& counts);

}  // namespace pear::baskets
