// Points with the ranges in which their values may lie, one under another.
#include <algorithm>
#include <cmath>

#include "output/charts/chart.hpp"
#include "output/tables/readable.hpp"

namespace pear::output {

void draw_intervals(const result::Figure& figure, PlotArea area, Drawing& drawing) {
  const result::TableColumn& labels = figure.marks.columns[figure.label];
  const result::TableColumn& values = figure.marks.columns[figure.values.front()];
  const result::TableColumn& low = figure.marks.columns[figure.interval->first];
  const result::TableColumn& high = figure.marks.columns[figure.interval->second];
  double largest = 0;
  for (std::size_t row = 0; row < figure.marks.rows(); ++row)
    largest = std::max(largest, mark_value(high, row));
  const std::vector<double> ticks = round_ticks(largest, 0, values.unit != result::Unit::count);
  const std::size_t characters = label_width(labels);
  area.left += Drawing::kCharacter * static_cast<double>(characters) + 14;
  area.right -= 250;  // the value and what it rests on
  area.top -= 34;
  area.bottom += 44;
  const RowLayout layout = layout_rows(area, figure.marks.rows());
  const double foot = area.top - layout.per_row * static_cast<double>(figure.marks.rows());
  const auto x_of = [&](double value) { return area.left + value / ticks.back() * area.width(); };
  for (const double tick : ticks) {
    drawing.line({{x_of(tick), foot}, {x_of(tick), area.top}}, colour::kGrid, 1);
    drawing.text(x_of(tick), foot - 18, tick_label(tick, values.unit), Align::center);
  }
  drawing.text((area.left + area.right) / 2, foot - 46, figure.value_title, Align::center);
  if (figure.reference) {
    const double x = x_of(100 * *figure.reference);
    drawing.line({{x, foot}, {x, area.top}}, colour::kSlate, 2);
    drawing.text(x, area.top + 16, figure.reference_label, Align::center, colour::kInk);
  }
  const double value_x = area.right + 80, basis_x = area.right + 240;
  if (figure.totals) drawing.text(basis_x, area.top + 16, figure.label_title, Align::right);
  for (std::size_t row = 0; row < figure.marks.rows(); ++row) {
    const double middle = area.top - layout.per_row * (static_cast<double>(row) + 0.5);
    const double half = std::min(9.0, layout.thickness / 2);
    const int colour = is_noticed(figure, row) ? colour::kOchre : colour::kPine;
    drawing.text(area.left - 12, middle, cut_to_width(labels.text(row), characters), Align::right,
                 colour::kInk, layout.lettering);
    drawing.line({{x_of(mark_value(low, row)), middle}, {x_of(mark_value(high, row)), middle}}, colour, 3);
    const double x = x_of(mark_value(values, row));
    drawing.rectangle(x - 5, middle - half, x + 5, middle + half, colour);
    drawing.text(value_x, middle, readable_cell(values, row), Align::right, colour::kInk, layout.lettering);
    if (figure.totals)
      drawing.text(basis_x, middle, readable_cell(figure.marks.columns[*figure.totals], row), Align::right,
                   colour::kSlate, layout.lettering);
  }
}

}  // namespace pear::output
