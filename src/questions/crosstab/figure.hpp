// The figure of a cross-tabulation.
#pragma once

#include <string>
#include <vector>

#include "questions/crosstab/counts.hpp"
#include "result/figure.hpp"

namespace pear::crosstab {

/// The first figure drawn: bars, stacked or grouped bars, lines over time, or a heat map. More than 30 marks
/// become the largest and "other". None if there is nothing to compare or the figure is not a number.
[[nodiscard]] std::vector<result::Figure> figures_of(const Crosstab& crosstab, const std::string& currency);

}  // namespace pear::crosstab
