#include "output/charts/curves.hpp"

#include <algorithm>
#include <cmath>

#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

constexpr double kStep = 20;  // per cent from one tick to the next

/// The square of the curves: ticks to the left of it and below.
struct Square {
  PlotArea area;
  [[nodiscard]] double x(double share) const { return area.left + share * area.width(); }
  [[nodiscard]] double y(double share) const { return area.bottom + share * area.height(); }
};

void draw_ground(const Square& square, Lettering lettering, Drawing& drawing) {
  for (double tick = 0; tick <= 100; tick += kStep) {
    const std::string label = tick_label(tick, result::Unit::share);
    drawing.line({{square.area.left, square.y(tick / 100)}, {square.area.right, square.y(tick / 100)}},
                 colour::kGrid, 1);
    drawing.text(square.area.left - 10, square.y(tick / 100), label, Align::right, colour::kSlate, lettering);
    drawing.text(square.x(tick / 100), square.area.bottom - (lettering == Lettering::small ? 14 : 20), label,
                 Align::center, colour::kSlate, lettering);
  }
  drawing.line({{square.x(0), square.y(0)}, {square.x(1), square.y(1)}}, colour::kOther, 1);
}

void draw_curve(const result::TableColumn& parts, const result::TableColumn& shares, int colour,
                const Square& square, Drawing& drawing) {
  std::vector<std::pair<double, double>> points;
  for (std::size_t mark = 0; mark < parts.size(); ++mark)
    points.emplace_back(square.x(parts.fraction(mark)), square.y(shares.fraction(mark)));
  drawing.line(points, colour, 3);
}

/// Lines from both axes to a point of the curve, and its label at the height `said`, to the right of the
/// point, where there is no curve.
void draw_point(const result::CurveChart::Point& point, double said, const Square& square, Drawing& drawing) {
  const double x = square.x(point.x), y = square.y(point.y);
  drawing.line({{square.area.left, y}, {x, y}}, colour::kOchre, 1.5);
  drawing.line({{x, square.area.bottom}, {x, y}}, colour::kOchre, 1.5);
  drawing.rectangle(x - 6, y - 6, x + 6, y + 6, colour::kOchre);
  const double width = Drawing::kCharacter * static_cast<double>(display_width(point.label));
  const bool fits = x + 16 + width < square.area.right;
  const double left = fits ? x + 16 : square.area.right - width;
  drawing.rectangle(left - 4, said - 12, left + width, said + 12, colour::kWhite);
  drawing.text(left, said, point.label, Align::left, colour::kInk);
}

}  // namespace

void draw_chart(const result::CurveChart& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing) {
  const result::TableColumn& parts = marks.column(chart.share);
  const Series series = series_of(marks, chart.series);
  const std::vector<int> colours = series_colours(series.size(), chart.series_in_order);
  if (chart.in_panels) {
    drawing.text(area.left, area.top - 14, chart.value_title);
    area.top -= 24;
    const std::vector<PlotArea> panels =
        panel_areas({area.left, area.right, area.bottom - 6, area.top}, series.size());
    for (std::size_t i = 0; i < series.size(); ++i) {
      PlotArea panel = panels[i];
      panel.left += 52;
      const Square square{panel};
      draw_ground(square, Lettering::small, drawing);
      draw_curve(parts, *series[i], colour::kPine, square, drawing);
      drawing.text(panel.left, panel.top + 16, cut_to_width(series[i]->title(), 30), Align::left,
                   colour::kInk);
    }
    return;
  }
  if (series.size() > 1) draw_legend(series, colours, area, drawing);
  drawing.text(area.left, area.top - 14, chart.value_title);
  area.left += 66;
  area.top -= 40;
  area.bottom += 50;
  const Square square{area};
  draw_ground(square, Lettering::text, drawing);
  for (std::size_t i = 0; i < series.size(); ++i) draw_curve(parts, *series[i], colours[i], square, drawing);
  constexpr double kLower = 24, kApart = 28;
  std::vector<result::CurveChart::Point> points = chart.points;
  std::stable_sort(
      points.begin(), points.end(),
      [](const result::CurveChart::Point& a, const result::CurveChart::Point& b) { return a.y > b.y; });
  double said = area.top + kApart;
  for (const result::CurveChart::Point& point : points) {
    said = std::min(square.y(point.y) - kLower, said - kApart);
    draw_point(point, said, square, drawing);
  }
  drawing.text((area.left + area.right) / 2, 26, chart.label_title, Align::center);
}

}  // namespace pear::output
