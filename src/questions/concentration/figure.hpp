// The figures of concentration.
#pragma once

#include <vector>

#include "questions/concentration/counts.hpp"
#include "result/figure.hpp"

namespace pear::concentration {

/// The Pareto curve, or a panel for each ranking; and the rankings of --compare in one chart.
[[nodiscard]] std::vector<result::Figure> figures_of(const Counts& counts);

}  // namespace pear::concentration
