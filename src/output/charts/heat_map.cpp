#include "output/charts/heat_map.hpp"

#include <algorithm>
#include <cmath>

#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

struct HeatLayout {
  std::size_t characters = 0;  ///< of the row labels
  double cell_width = 0, cell_height = 0;
  Lettering lettering = Lettering::text;
  Lettering value_lettering = Lettering::small;
  bool with_values = false;
};

HeatLayout lay_out(const Series& series, const PlotArea& area, double left) {
  HeatLayout layout;
  const auto columns = static_cast<double>(series.size());
  layout.cell_width = (area.right - left) / columns;
  layout.cell_height = std::min(84.0, area.height() / static_cast<double>(series.front()->size()));
  layout.lettering = layout.cell_height < 22 ? Lettering::small : Lettering::text;
  std::size_t longest = 0;
  for (const result::TableColumn* column : series) {
    for (std::size_t row = 0; row < series.front()->size(); ++row)
      longest = std::max(longest, display_width(readable_cell(*column, row)));
  }
  constexpr double kSmallCharacter = 9;
  if (Drawing::kCharacter * static_cast<double>(longest) + 16 < layout.cell_width && layout.cell_height > 34)
    layout.value_lettering = Lettering::text;
  layout.with_values =
      kSmallCharacter * static_cast<double>(longest) + 6 < layout.cell_width && layout.cell_height >= 15;
  return layout;
}

/// The strength of a value between the smallest and the largest: the square root, so that small ones can be
/// distinguished.
double strength(double value, double largest) {
  return largest <= 0 ? 0 : std::sqrt(std::max(0.0, value) / largest);
}

}  // namespace

void draw_chart(const result::HeatMap& chart, const result::Table& marks, PlotArea area, Drawing& drawing) {
  const result::TableColumn& labels = marks.column(chart.label);
  const Series series = series_of(marks, chart.series);
  std::size_t characters = 0;
  for (std::size_t row = 0; row < labels.size(); ++row)
    characters = std::max(characters, std::min<std::size_t>(26, display_width(labels.text(row))));
  const double left = area.left + Drawing::kCharacter * static_cast<double>(characters) + 12;
  area.top -= 30;  // the column labels
  area.bottom += 44;
  const HeatLayout layout = lay_out(series, area, left);
  const double largest = value_range(series).second;
  double free_from = 0;
  for (std::size_t i = 0; i < series.size(); ++i) {
    const double middle = left + layout.cell_width * (static_cast<double>(i) + 0.5);
    constexpr double kLetter = 8.5;
    const auto room = static_cast<std::size_t>(std::max(4.0, layout.cell_width / kLetter));
    const std::string name = cut_to_width(series[i]->title(), room);
    const double half = kLetter * static_cast<double>(display_width(name)) / 2;
    if (middle - half + 1 < free_from) continue;
    drawing.text(middle, area.top + 16, name, Align::center, colour::kSlate, Lettering::small);
    free_from = middle + half;
  }
  for (std::size_t row = 0; row < marks.rows(); ++row) {
    const double top = area.top - layout.cell_height * static_cast<double>(row);
    const double middle = top - layout.cell_height / 2;
    if (row % rows_per_label(layout.cell_height) == 0)
      drawing.text(left - 10, middle, cut_to_width(labels.text(row), characters), Align::right, colour::kInk,
                   layout.lettering);
    for (std::size_t i = 0; i < series.size(); ++i) {
      const result::TableColumn& values = *series[i];
      const double value = mark_value(values, row);
      const double x = left + layout.cell_width * static_cast<double>(i);
      const double part = std::isnan(value) ? 0 : strength(value, largest);
      const int ground = std::isnan(value) ? 0xF6F7F7 : value < 0 ? colour::kPlum : colour::shade(part);
      drawing.rectangle(x + 1, top - layout.cell_height + 1, x + layout.cell_width - 1, top - 1, ground);
      if (layout.with_values && !std::isnan(value))
        drawing.text(x + layout.cell_width / 2, middle, readable_cell(values, row), Align::center,
                     part > 0.55 || value < 0 ? colour::kWhite : colour::kInk, layout.value_lettering);
    }
  }
  // The scale, below the cells.
  constexpr std::size_t kSteps = 40;
  constexpr double kScaleWidth = 240;
  const double y = area.top - layout.cell_height * static_cast<double>(marks.rows()) - 28;
  drawing.text(left, y, "0", Align::left, colour::kSlate, Lettering::small);
  for (std::size_t i = 0; i < kSteps; ++i) {
    const double x = left + 18 + kScaleWidth * static_cast<double>(i) / kSteps;
    drawing.rectangle(x, y - 7, x + kScaleWidth / kSteps + 0.5, y + 7,
                      colour::shade(std::sqrt(static_cast<double>(i) / (kSteps - 1))));
  }
  const result::Unit unit = series.front()->unit;
  drawing.text(left + 26 + kScaleWidth, y,
               tick_label(largest >= 10 ? std::round(largest) : std::round(10 * largest) / 10, unit) + "  " +
                   chart.value_title,
               Align::left, colour::kSlate, Lettering::small);
}

}  // namespace pear::output
