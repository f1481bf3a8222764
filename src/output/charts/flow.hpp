// How many move from each step to the next: bars for the steps, and bands between them.
#pragma once

#include "output/charts/plot.hpp"

namespace pear::output {

void draw_chart(const result::FlowChart& chart, const result::Table& marks, PlotArea area, Drawing& drawing);

}  // namespace pear::output
