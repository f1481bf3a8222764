// Points over two scales, either of which is logarithmic if values differ much.
#pragma once

#include "output/charts/plot.hpp"

namespace pear::output {

void draw_chart(const result::ScatterChart& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing);

}  // namespace pear::output
