// Points with their intervals, one below another.
#pragma once

#include "output/charts/plot.hpp"

namespace pear::output {

void draw_chart(const result::IntervalChart& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing);

}  // namespace pear::output
