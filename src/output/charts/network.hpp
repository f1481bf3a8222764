// Members on a circle, and lines between those that belong together.
#pragma once

#include "output/charts/plot.hpp"

namespace pear::output {

void draw_chart(const result::NetworkChart& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing);

}  // namespace pear::output
