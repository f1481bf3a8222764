#include "output/charts/small_multiples.hpp"

#include <algorithm>
#include <cmath>

#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

std::size_t characters_in(double width) {
  return std::max<std::size_t>(1, static_cast<std::size_t>(width / Drawing::kSmallCharacter));
}

/// Months that begin a year, as many as fit.
void draw_years(const result::TableColumn& labels, PlotArea panel, double per_mark, Drawing& drawing) {
  constexpr double kRoom = 8.5 * Drawing::kSmallCharacter;  // "2024-01"
  double last = -kRoom;
  for (std::size_t mark = 0; mark < labels.size(); ++mark) {
    const double middle = panel.left + per_mark * (static_cast<double>(mark) + 0.5);
    if (!labels.text(mark).ends_with("-01") || middle - last < kRoom) continue;
    drawing.text(middle, panel.bottom - 14, labels.text(mark), Align::center, colour::kSlate,
                 Lettering::small);
    last = middle;
  }
}

/// The first and the last label, below the ends of the panel.
void draw_ends(const result::TableColumn& labels, PlotArea panel, Drawing& drawing) {
  const auto draw = [&](std::size_t mark, double x, double width, Align align) {
    drawing.text(x, panel.bottom - 14, cut_to_width(labels.text(mark), characters_in(width)), align,
                 colour::kSlate, Lettering::small);
  };
  if (labels.size() == 1) return draw(0, (panel.left + panel.right) / 2, panel.width(), Align::center);
  const double half = (panel.width() - 2 * Drawing::kSmallCharacter) / 2;
  draw(0, panel.left, half, Align::left);
  draw(labels.size() - 1, panel.right, half, Align::right);
}

/// Every second tick, because panels are low: zero, and as many on either side as the values need.
std::vector<double> fewer_ticks(const std::vector<double>& ticks) {
  constexpr std::size_t kMost = 4;
  if (ticks.size() <= kMost) return ticks;
  const double step = 2 * (ticks[1] - ticks[0]);
  const double first = std::floor(ticks.front() / step) * step;
  std::vector<double> fewer;
  for (double tick = first; tick < ticks.back() + step / 2; tick += step) fewer.push_back(tick);
  if (fewer.back() < ticks.back()) fewer.push_back(fewer.back() + step);
  return fewer;
}

void draw_panel(const result::TableColumn& labels, result::LabelAxis axis, const result::TableColumn& values,
                const std::vector<double>& ticks, PlotArea panel, Drawing& drawing) {
  drawing.text(panel.left, panel.top + 16, cut_to_width(values.title(), 30), Align::left, colour::kInk);
  const auto y_of = [&](double value) {
    return panel.bottom + (value - ticks.front()) / (ticks.back() - ticks.front()) * panel.height();
  };
  for (const double tick : ticks) {
    drawing.line({{panel.left, y_of(tick)}, {panel.right, y_of(tick)}}, colour::kGrid, 1);
    drawing.text(panel.left - 8, y_of(tick), tick_label(tick, values.unit), Align::right, colour::kSlate,
                 Lettering::small);
  }
  constexpr std::size_t kMonths = 12;
  const double per_mark = panel.width() / static_cast<double>(labels.size());
  if (axis == result::LabelAxis::months && labels.size() > kMonths)
    draw_years(labels, panel, per_mark, drawing);
  else
    draw_ends(labels, panel, drawing);
  for (std::size_t mark = 0; mark < labels.size(); ++mark) {
    const double middle = panel.left + per_mark * (static_cast<double>(mark) + 0.5);
    const double value = mark_value(values, mark);
    if (!std::isnan(value))
      drawing.rectangle(middle - 0.38 * per_mark, std::min(y_of(0), y_of(value)), middle + 0.38 * per_mark,
                        std::max(y_of(0), y_of(value)), value < 0 ? colour::kPlum : colour::kPine);
  }
}

}  // namespace

void draw_chart(const result::SmallMultiples& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing) {
  const Series series = series_of(marks, chart.series);
  const result::Unit unit = series.front()->unit;
  const auto [smallest, largest] = value_range(series);
  const std::vector<double> ticks = fewer_ticks(round_ticks(largest, smallest, has_fractions(unit)));
  drawing.text(area.left, area.top - 14, chart.value_title);
  area.top -= 30;
  area.bottom -= 10;
  const std::vector<PlotArea> panels = panel_areas(area, series.size());
  for (std::size_t i = 0; i < series.size(); ++i) {
    PlotArea panel = panels[i];
    panel.left += Drawing::kCharacter * static_cast<double>(widest_label(ticks, unit)) + 14;
    draw_panel(marks.column(chart.label), chart.axis, *series[i], ticks, panel, drawing);
  }
}

}  // namespace pear::output
