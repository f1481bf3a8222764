// Small multiples: a panel of bars for each series, all with one scale.
#pragma once

#include "output/charts/plot.hpp"

namespace pear::output {

void draw_chart(const result::SmallMultiples& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing);

}  // namespace pear::output
