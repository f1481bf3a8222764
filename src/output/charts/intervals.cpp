#include "output/charts/intervals.hpp"

#include <algorithm>
#include <cmath>

#include "output/tables/readable.hpp"

namespace pear::output {

void draw_chart(const result::IntervalChart& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing) {
  const result::TableColumn& labels = marks.column(chart.label);
  const result::TableColumn& values = marks.column(chart.value);
  const result::TableColumn& low = marks.column(chart.low);
  const result::TableColumn& high = marks.column(chart.high);
  double largest = 100 * chart.reference.value_or(0);
  for (std::size_t row = 0; row < marks.rows(); ++row) largest = std::max(largest, mark_value(high, row));
  const std::vector<double> ticks = round_ticks(largest, 0, values.unit != result::Unit::count);
  const std::size_t characters = label_width(labels);
  area.left += Drawing::kCharacter * static_cast<double>(characters) + 14;
  area.right -= 250;  // the value and its basis
  area.top -= 34;
  area.bottom += 44;
  const RowLayout layout = layout_rows(area, marks.rows());
  const double foot = area.top - layout.per_row * static_cast<double>(marks.rows());
  const auto x_of = [&](double value) { return area.left + value / ticks.back() * area.width(); };
  for (const double tick : ticks) {
    drawing.line({{x_of(tick), foot}, {x_of(tick), area.top}}, colour::kGrid, 1);
    drawing.text(x_of(tick), foot - 18, tick_label(tick, values.unit), Align::center);
  }
  drawing.text((area.left + area.right) / 2, foot - 46, chart.value_title, Align::center);
  if (chart.reference) {
    const double x = x_of(100 * *chart.reference);
    drawing.line({{x, foot}, {x, area.top}}, colour::kSlate, 2);
    drawing.text(x, area.top + 16, chart.reference_label, Align::center, colour::kInk);
  }
  const double value_x = area.right + 80, basis_x = area.right + 240;
  if (!chart.basis.empty()) drawing.text(basis_x, area.top + 16, chart.basis_title, Align::right);
  for (std::size_t row = 0; row < marks.rows(); ++row) {
    const double middle = area.top - layout.per_row * (static_cast<double>(row) + 0.5);
    const double half = std::min(9.0, layout.thickness / 2);
    const int colour = is_noticed(chart.noticed, row) ? colour::kOchre : colour::kPine;
    drawing.line({{x_of(mark_value(low, row)), middle}, {x_of(mark_value(high, row)), middle}}, colour, 3);
    const double x = x_of(mark_value(values, row));
    drawing.rectangle(x - 5, middle - half, x + 5, middle + half, colour);
    if (!layout.has_label(row)) continue;
    drawing.text(area.left - 12, middle, cut_to_width(labels.text(row), characters), Align::right,
                 colour::kInk, layout.lettering);
    drawing.text(value_x, middle, readable_cell(values, row), Align::right, colour::kInk, layout.lettering);
    if (!chart.basis.empty())
      drawing.text(basis_x, middle, readable_cell(marks.column(chart.basis), row), Align::right,
                   colour::kSlate, layout.lettering);
  }
}

}  // namespace pear::output
