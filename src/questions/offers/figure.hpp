// The figure of the plan.
#pragma once

#include <vector>

#include "questions/offers/counts.hpp"
#include "result/figure.hpp"

namespace pear::offers {

/// The expected value of offers, by product. None without offers.
[[nodiscard]] std::vector<result::Figure> figures_of(const Counts& counts);

}  // namespace pear::offers
