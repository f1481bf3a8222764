#include "output/charts/small_multiples.hpp"

#include <algorithm>
#include <cmath>

#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

/// Months that begin a year, or else the first and the last label.
bool has_label(const result::TableColumn& labels, result::LabelAxis axis, std::size_t mark) {
  if (axis == result::LabelAxis::months && labels.size() > 12) return labels.text(mark).ends_with("-01");
  return mark == 0 || mark + 1 == labels.size();
}

void draw_panel(const result::TableColumn& labels, result::LabelAxis axis, const result::TableColumn& values,
                const std::vector<double>& ticks, PlotArea panel, Drawing& drawing) {
  drawing.text(panel.left, panel.top + 16, cut_to_width(values.title(), 30), Align::left, colour::kInk);
  const auto y_of = [&](double value) { return panel.bottom + value / ticks.back() * panel.height(); };
  for (const double tick : ticks) {
    drawing.line({{panel.left, y_of(tick)}, {panel.right, y_of(tick)}}, colour::kGrid, 1);
    drawing.text(panel.left - 8, y_of(tick), tick_label(tick, values.unit), Align::right, colour::kSlate,
                 Lettering::small);
  }
  const double per_mark = panel.width() / static_cast<double>(labels.size());
  for (std::size_t mark = 0; mark < labels.size(); ++mark) {
    const double middle = panel.left + per_mark * (static_cast<double>(mark) + 0.5);
    const double value = mark_value(values, mark);
    if (has_label(labels, axis, mark))
      drawing.text(middle, panel.bottom - 14, labels.text(mark), Align::center, colour::kSlate,
                   Lettering::small);
    if (!std::isnan(value))
      drawing.rectangle(middle - 0.38 * per_mark, y_of(0), middle + 0.38 * per_mark, y_of(value),
                        colour::kPine);
  }
}

}  // namespace

void draw_chart(const result::SmallMultiples& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing) {
  const Series series = series_of(marks, chart.series);
  const result::Unit unit = series.front()->unit;
  std::vector<double> ticks = round_ticks(value_range(series).second, 0, has_fractions(unit));
  if (ticks.size() > 4) {  // panels are low: every second tick
    std::vector<double> fewer;
    for (std::size_t i = 0; i < ticks.size(); i += 2) fewer.push_back(ticks[i]);
    if (ticks.size() % 2 == 0) fewer.push_back(2 * fewer.back() - fewer[fewer.size() - 2]);
    ticks = fewer;
  }
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
