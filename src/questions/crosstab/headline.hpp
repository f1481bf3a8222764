// The headline of a cross-tabulation.
#pragma once

#include <string>
#include <vector>

#include "questions/crosstab/counts.hpp"

namespace pear::crosstab {

/// The largest and the smallest, the share of the largest, and the total, of the first figure.
[[nodiscard]] std::vector<std::string> headline_of(const Crosstab& crosstab, const std::string& currency);

/// "41,200.50", "812,806 EUR"
[[nodiscard]] std::string readable_figure(const Crosstab& crosstab, std::size_t figure, std::int64_t units,
                                          const std::string& currency);

/// The figure of the highest row or column, of the sentence that names it, if it is money.
[[nodiscard]] std::vector<result::Stake> stakes_of(const Crosstab& crosstab);

}  // namespace pear::crosstab
