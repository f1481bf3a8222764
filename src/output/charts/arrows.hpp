// Members in columns from left to right, and arrows from each to those that follow it.
#pragma once

#include "output/charts/plot.hpp"

namespace pear::output {

void draw_chart(const result::ArrowChart& chart, const result::Table& marks, PlotArea area, Drawing& drawing);

}  // namespace pear::output
