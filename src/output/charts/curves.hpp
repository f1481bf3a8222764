// Curves of running shares: members along, what they bring upwards, both to 100%.
#pragma once

#include "output/charts/plot.hpp"

namespace pear::output {

void draw_chart(const result::CurveChart& chart, const result::Table& marks, PlotArea area, Drawing& drawing);

}  // namespace pear::output
