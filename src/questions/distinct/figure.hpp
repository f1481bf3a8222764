// The figure of distinct.
#pragma once

#include <vector>

#include "questions/distinct/counts.hpp"
#include "result/figure.hpp"

namespace pear::distinct {

/// The top values, or the distribution where there are many; none of a single number.
[[nodiscard]] std::vector<result::Figure> figures_of(const Counts& counts);

}  // namespace pear::distinct
