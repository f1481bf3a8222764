// What a cross-tabulation says: headline and figure.
#pragma once

#include <string>
#include <vector>

#include "questions/crosstab/cells.hpp"
#include "result/result.hpp"

namespace pear::crosstab {

/// The best and the weakest, the share of the best, and the total, of the first figure.
[[nodiscard]] std::vector<std::string> headline_of(const Crosstab& crosstab, const std::string& currency);

/// The first figure drawn: bars, stacked or grouped bars, lines where time runs, or a heat map. More than 30
/// marks become the largest and "other". None where there is nothing to compare or the figure is no number.
[[nodiscard]] std::vector<result::Figure> figures_of(const Crosstab& crosstab, const std::string& currency);

/// "41,200.50", "812,806 EUR"
[[nodiscard]] std::string readable_figure(const Crosstab& crosstab, std::size_t figure, std::int64_t units,
                                          const std::string& currency);

}  // namespace pear::crosstab
