#include "output/charts/lying_bars.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <string>

#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

constexpr std::size_t kMostLyingValues = 30;

/// Between the lightest and the darkest bar, by another column.
int shade_of(const result::TableColumn& column, std::size_t bar) {
  double low = INFINITY, high = -INFINITY;
  for (std::size_t row = 0; row < column.size(); ++row) {
    low = std::fmin(low, mark_value(column, row));
    high = std::fmax(high, mark_value(column, row));
  }
  const double value = mark_value(column, bar);
  return std::isnan(value) ? colour::kOther
                           : colour::shade(high > low ? 0.25 + 0.75 * (value - low) / (high - low) : 1);
}

int bar_colour(const result::RankedBarChart& chart, const result::Table& marks, std::size_t bar,
               double value) {
  if (value < 0) return colour::kPlum;
  if (!chart.shade.empty()) return shade_of(marks.column(chart.shade), bar);
  if (is_noticed(chart.noticed, bar)) return colour::kOchre;
  if (chart.other == bar) return colour::kOther;
  return chart.in_order ? shade_in_order(bar, marks.rows()) : colour::kPine;
}

/// White on dark grounds.
int ink_on(int ground) {
  const int brightness = 3 * ((ground >> 16) & 0xFF) + 6 * ((ground >> 8) & 0xFF) + (ground & 0xFF);
  return brightness < 1400 ? colour::kWhite : colour::kInk;
}

/// The common parts of the three kinds.
struct LyingBars {
  const result::TableColumn& labels;
  Series series;
  bool stacked = false;
  const result::TableColumn* total = nullptr;  ///< shown after a stack
  const result::TableColumn* basis = nullptr;  ///< shown after the value of a bar
  std::string_view value_title;
  std::function<int(std::size_t row, std::size_t series, double value)> colour;

  [[nodiscard]] std::size_t rows() const { return labels.size(); }
  /// "10.8", or with its basis "10.8 (7)".
  [[nodiscard]] std::string bar_text(std::size_t of, std::size_t row) const {
    const std::string value = readable_cell(*series[of], row);
    return basis == nullptr ? value : value + " (" + readable_cell(*basis, row) + ")";
  }
  /// Characters of the longest text after a bar.
  [[nodiscard]] std::size_t longest_text() const {
    constexpr std::size_t kValue = 7;
    std::size_t longest = kValue;
    const result::TableColumn* more = stacked ? total : basis;
    for (std::size_t row = 0; more != nullptr && row < rows(); ++row)
      longest = std::max(longest, kValue + display_width(readable_cell(*more, row)));
    return longest;
  }
};

/// The scale of the values, and the rows below one another.
struct BarsLayout {
  PlotArea area;
  std::vector<double> ticks;
  std::size_t characters = 0;  ///< of a label
  RowLayout rows;
  double foot = 0;
  [[nodiscard]] double x(double value) const {
    return area.left + (value - ticks.front()) / (ticks.back() - ticks.front()) * area.width();
  }
  [[nodiscard]] double middle(std::size_t row) const {
    return area.top - rows.per_row * (static_cast<double>(row) + 0.5);
  }
};

BarsLayout lay_out(const LyingBars& bars, PlotArea area) {
  const auto [smallest, largest] = value_range(bars.series, bars.stacked);
  BarsLayout layout;
  layout.ticks = round_ticks(largest, smallest, has_fractions(bars.series.front()->unit));
  layout.characters = label_width(bars.labels);
  area.left += Drawing::kCharacter * static_cast<double>(layout.characters) + 14;
  area.right -= Drawing::kCharacter * static_cast<double>(bars.longest_text()) + 16;
  area.bottom += 44;
  layout.area = area;
  layout.rows = layout_rows(area, bars.rows());
  layout.foot = area.top - layout.rows.per_row * static_cast<double>(bars.rows());
  return layout;
}

void draw_grid(const LyingBars& bars, const BarsLayout& layout, Drawing& drawing) {
  for (const double tick : layout.ticks) {
    drawing.line({{layout.x(tick), layout.foot}, {layout.x(tick), layout.area.top}}, colour::kGrid, 1);
    drawing.text(layout.x(tick), layout.foot - 18, tick_label(tick, bars.series.front()->unit),
                 Align::center);
  }
  drawing.text((layout.area.left + layout.area.right) / 2, layout.foot - 46, bars.value_title, Align::center);
}

void draw_stack(const LyingBars& bars, std::size_t row, const BarsLayout& layout, Drawing& drawing) {
  const double middle = layout.middle(row), half = layout.rows.thickness / 2;
  double from = 0;
  for (std::size_t i = 0; i < bars.series.size(); ++i) {
    const double value = mark_value(*bars.series[i], row);
    if (std::isnan(value)) continue;
    const int colour = bars.colour(row, i, value);
    drawing.rectangle(std::min(layout.x(from), layout.x(from + value)), middle + half - layout.rows.thickness,
                      std::max(layout.x(from), layout.x(from + value)), middle + half, colour);
    if (bars.series.front()->unit == result::Unit::share && layout.rows.lettering == Lettering::text) {
      const std::string share = readable_cell(*bars.series[i], row);
      const double room = layout.x(value) - layout.x(0);
      if (room > Drawing::kCharacter * static_cast<double>(display_width(share)) + 6)
        drawing.text(layout.x(from + value / 2), middle, share, Align::center, ink_on(colour),
                     layout.rows.lettering);
    }
    from += value;
  }
  if (bars.total != nullptr && layout.rows.has_label(row))
    drawing.text(layout.x(from) + 8, middle, readable_cell(*bars.total, row), Align::left, colour::kInk,
                 layout.rows.lettering);
}

void draw_group(const LyingBars& bars, std::size_t row, const BarsLayout& layout, Drawing& drawing) {
  const double thickness = layout.rows.thickness / static_cast<double>(bars.series.size());
  constexpr double kThinnest = 15;  // with a value next to it
  const bool with_values = bars.rows() * bars.series.size() <= kMostLyingValues &&
                           (bars.series.size() == 1 || thickness >= kThinnest);
  double y = layout.middle(row) + layout.rows.thickness / 2;
  for (std::size_t i = 0; i < bars.series.size(); ++i, y -= thickness) {
    const double value = mark_value(*bars.series[i], row);
    if (std::isnan(value)) continue;
    drawing.rectangle(std::min(layout.x(0), layout.x(value)), y - thickness,
                      std::max(layout.x(0), layout.x(value)), y, bars.colour(row, i, value));
    if (with_values)
      drawing.text(layout.x(std::max(value, 0.0)) + 8, y - thickness / 2, bars.bar_text(i, row), Align::left,
                   colour::kInk, thickness < 18 ? Lettering::small : layout.rows.lettering);
  }
}

void draw(const LyingBars& bars, PlotArea area, Drawing& drawing) {
  const BarsLayout layout = lay_out(bars, area);
  draw_grid(bars, layout, drawing);
  for (std::size_t row = 0; row < bars.rows(); ++row) {
    if (layout.rows.has_label(row))
      drawing.text(layout.area.left - 12, layout.middle(row),
                   cut_to_width(bars.labels.text(row), layout.characters), Align::right, colour::kInk,
                   layout.rows.lettering);
    if (bars.stacked)
      draw_stack(bars, row, layout, drawing);
    else
      draw_group(bars, row, layout, drawing);
  }
}

}  // namespace

void draw_chart(const result::RankedBarChart& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing) {
  draw(LyingBars{marks.column(chart.label), series_of(marks, {chart.value}), false, nullptr,
                 chart.basis.empty() ? nullptr : &marks.column(chart.basis), chart.value_title,
                 [&](std::size_t row, std::size_t, double value) {
                   return bar_colour(chart, marks, row, value);
                 }},
       area, drawing);
}

void draw_chart(const result::StackedBarChart& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing) {
  const Series series = series_of(marks, chart.series);
  const std::vector<int> colours = series_colours(series.size(), chart.series_in_order);
  if (series.size() > 1) draw_legend(series, colours, area, drawing);
  draw(LyingBars{marks.column(chart.label), series, true,
                 chart.total.empty() ? nullptr : &marks.column(chart.total), nullptr, chart.value_title,
                 [&](std::size_t, std::size_t of, double) { return colours[of]; }},
       area, drawing);
}

void draw_chart(const result::GroupedBarChart& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing) {
  const Series series = series_of(marks, chart.series);
  const std::vector<int> colours = series_colours(series.size(), chart.series_in_order);
  if (series.size() > 1) draw_legend(series, colours, area, drawing);
  draw(LyingBars{marks.column(chart.label), series, false, nullptr, nullptr, chart.value_title,
                 [&](std::size_t, std::size_t of, double) { return colours[of]; }},
       area, drawing);
}

}  // namespace pear::output
