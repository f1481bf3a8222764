// The figure of distinct.
#pragma once

#include <vector>

#include "questions/distinct/counts.hpp"
#include "result/figure.hpp"

namespace pear::distinct {

/// The largest values, or the distribution if there are many; none for a single number.
[[nodiscard]] std::vector<result::Figure> figures_of(const Counts& counts);

}  // namespace pear::distinct
