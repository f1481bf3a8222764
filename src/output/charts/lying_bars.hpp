// Horizontal bars: ranked, stacked or grouped.
#pragma once

#include "output/charts/plot.hpp"

namespace pear::output {

void draw_chart(const result::RankedBarChart& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing);
void draw_chart(const result::StackedBarChart& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing);
void draw_chart(const result::GroupedBarChart& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing);

}  // namespace pear::output
