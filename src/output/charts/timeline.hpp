// Stems at their dates.
#pragma once

#include "output/charts/plot.hpp"

namespace pear::output {

void draw_chart(const result::Timeline& chart, const result::Table& marks, PlotArea area, Drawing& drawing);

}  // namespace pear::output
