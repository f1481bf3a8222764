// A whole figure as a drawing.
#pragma once

#include "output/charts/drawing.hpp"
#include "result/figure.hpp"

namespace pear::output {

/// The figure with its title and subtitle, laid out in pixels. Each kind of chart has a file of its own, with
/// a `draw_chart` that draws it into the area below the subtitle.
[[nodiscard]] Drawing draw(const result::Figure& figure);

}  // namespace pear::output
