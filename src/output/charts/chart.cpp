#include "output/charts/chart.hpp"

#include <variant>

#include "output/charts/arrows.hpp"
#include "output/charts/bars.hpp"
#include "output/charts/curves.hpp"
#include "output/charts/flow.hpp"
#include "output/charts/heat_map.hpp"
#include "output/charts/intervals.hpp"
#include "output/charts/lines.hpp"
#include "output/charts/lying_bars.hpp"
#include "output/charts/network.hpp"
#include "output/charts/scatter.hpp"
#include "output/charts/small_multiples.hpp"
#include "output/charts/timeline.hpp"
#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

constexpr double kLeft = 40;  // where the texts begin
constexpr double kTitleTop = Drawing::kHeight - 46;
constexpr double kTitleLine = 38;
constexpr std::size_t kTitleWidth = 68;  // characters of a title that fit
constexpr std::size_t kSubtitleWidth = 118;

/// Titles are sentences of headlines at times, but have no full stop.
std::string title_of(const result::Figure& figure) {
  std::string title = figure.title;
  if (title.ends_with('.')) title.pop_back();
  return title;
}

/// Title and subtitle; returns the area below them.
PlotArea draw_heading(const result::Figure& figure, Drawing& drawing) {
  double y = kTitleTop;
  for (const std::string& line : wrapped(title_of(figure), kTitleWidth)) {
    drawing.text(kLeft, y, line, Align::left, colour::kInk, Lettering::title);
    y -= kTitleLine;
  }
  for (const std::string& line : wrapped(figure.subtitle, kSubtitleWidth)) {
    drawing.text(kLeft, y, line);
    y -= 26;
  }
  return {kLeft, Drawing::kWidth - 40, 40, y - 4};
}

}  // namespace

Drawing draw(const result::Figure& figure) {
  Drawing drawing;
  const PlotArea area = draw_heading(figure, drawing);
  std::visit([&](const auto& chart) { draw_chart(chart, figure.marks, area, drawing); }, figure.chart);
  return drawing;
}

}  // namespace pear::output
