// Curves of cumulative shares: members on one axis, their figure on the other, both up to 100%.
#pragma once

#include "output/charts/plot.hpp"

namespace pear::output {

void draw_chart(const result::CurveChart& chart, const result::Table& marks, PlotArea area, Drawing& drawing);

}  // namespace pear::output
