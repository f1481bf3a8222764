// Lines over time, each with its name at its end.
#pragma once

#include "output/charts/plot.hpp"

namespace pear::output {

void draw_chart(const result::LineChart& chart, const result::Table& marks, PlotArea area, Drawing& drawing);

}  // namespace pear::output
