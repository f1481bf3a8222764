// Vertical bars.
#pragma once

#include "output/charts/plot.hpp"

namespace pear::output {

void draw_chart(const result::BarChart& chart, const result::Table& marks, PlotArea area, Drawing& drawing);

}  // namespace pear::output
