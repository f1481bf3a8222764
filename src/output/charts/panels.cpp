// Small multiples: a panel of bars for each series, all on one scale.
#include <algorithm>
#include <cmath>

#include "output/charts/chart.hpp"
#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

/// Months that begin a year, or else the first and the last label.
bool has_label(const result::Figure& figure, std::size_t mark) {
  const result::TableColumn& labels = figure.marks.columns[figure.label];
  if (figure.axis == result::Figure::Axis::months && figure.marks.rows() > 12)
    return labels.text(mark).ends_with("-01");
  return mark == 0 || mark + 1 == figure.marks.rows();
}

void draw_panel(const result::Figure& figure, std::size_t series, const std::vector<double>& ticks,
                PlotArea panel, Drawing& drawing) {
  const result::TableColumn& labels = figure.marks.columns[figure.label];
  const result::TableColumn& values = figure.marks.columns[series];
  drawing.text(panel.left, panel.top + 16, cut_to_width(values.name, 30), Align::left, colour::kInk);
  const auto y_of = [&](double value) { return panel.bottom + value / ticks.back() * panel.height(); };
  for (const double tick : ticks) {
    drawing.line({{panel.left, y_of(tick)}, {panel.right, y_of(tick)}}, colour::kGrid, 1);
    drawing.text(panel.left - 8, y_of(tick), tick_label(tick, values.unit), Align::right, colour::kSlate,
                 Lettering::small);
  }
  const double per_mark = panel.width() / static_cast<double>(figure.marks.rows());
  for (std::size_t mark = 0; mark < figure.marks.rows(); ++mark) {
    const double middle = panel.left + per_mark * (static_cast<double>(mark) + 0.5);
    const double value = mark_value(values, mark);
    if (has_label(figure, mark))
      drawing.text(middle, panel.bottom - 14, labels.text(mark), Align::center, colour::kSlate,
                   Lettering::small);
    if (!std::isnan(value))
      drawing.rectangle(middle - 0.38 * per_mark, y_of(0), middle + 0.38 * per_mark, y_of(value),
                        colour::kPine);
  }
}

}  // namespace

std::vector<PlotArea> panel_areas(const PlotArea& area, std::size_t panels) {
  const std::size_t columns = panels <= 2 ? 1 : panels <= 4 ? 2 : 3;
  const std::size_t rows = (panels + columns - 1) / columns;
  const double width = area.width() / static_cast<double>(columns);
  const double height = area.height() / static_cast<double>(rows);
  std::vector<PlotArea> areas;
  for (std::size_t i = 0; i < panels; ++i) {
    const double left = area.left + width * static_cast<double>(i % columns);
    const double top = area.top - height * static_cast<double>(i / columns);
    areas.push_back({left, left + width - 20, top - height + 40, top - 34});
  }
  return areas;
}

void draw_panels(const result::Figure& figure, PlotArea area, Drawing& drawing) {
  const result::Unit unit = figure.marks.columns[figure.values.front()].unit;
  std::vector<double> ticks =
      round_ticks(value_range(figure).second, 0, unit == result::Unit::money || unit == result::Unit::number);
  if (ticks.size() > 4) {  // panels are low: every second tick
    std::vector<double> fewer;
    for (std::size_t i = 0; i < ticks.size(); i += 2) fewer.push_back(ticks[i]);
    if (ticks.size() % 2 == 0) fewer.push_back(2 * fewer.back() - fewer[fewer.size() - 2]);
    ticks = fewer;
  }
  drawing.text(area.left, area.top - 14, figure.value_title);
  area.top -= 30;
  area.bottom -= 10;
  std::size_t widest = 0;
  for (const double tick : ticks) widest = std::max(widest, display_width(tick_label(tick, unit)));
  const std::vector<PlotArea> panels = panel_areas(area, figure.values.size());
  for (std::size_t i = 0; i < figure.values.size(); ++i) {
    PlotArea panel = panels[i];
    panel.left += Drawing::kCharacter * static_cast<double>(widest) + 14;
    draw_panel(figure, figure.values[i], ticks, panel, drawing);
  }
}

}  // namespace pear::output
