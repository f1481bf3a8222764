// A heat map: a row for each mark, a column for each series, shades from mist to pine.
#pragma once

#include "output/charts/plot.hpp"

namespace pear::output {

void draw_chart(const result::HeatMap& chart, const result::Table& marks, PlotArea area, Drawing& drawing);

}  // namespace pear::output
