// The figure of a cross-tabulation.
#pragma once

#include <string>
#include <vector>

#include "questions/crosstab/counts.hpp"
#include "result/figure.hpp"

namespace pear::crosstab {

/// The first figure drawn: bars, stacked or grouped bars, lines where time runs, or a heat map. More than 30
/// marks become the largest and "other". None where there is nothing to compare or the figure is no number.
[[nodiscard]] std::vector<result::Figure> figures_of(const Crosstab& crosstab, const std::string& currency);

}  // namespace pear::crosstab
