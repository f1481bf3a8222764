#include "output/charts/bars.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

constexpr std::size_t kMostValuesOnBars = 15;

int bar_colour(const result::BarChart& chart, std::size_t bar, std::size_t bars, double value) {
  if (value < 0) return colour::kPlum;
  if (is_noticed(chart.noticed, bar)) return colour::kOchre;
  if (chart.other == bar) return colour::kOther;
  return chart.in_order ? shade_in_order(bar, bars) : colour::kPine;
}

/// The size in which all values fit above their bars; none if they do not fit, or are too many to read.
std::optional<Lettering> lettering_of_values(const result::TableColumn& values, double per_bar) {
  constexpr double kGap = 4;
  if (values.size() > kMostValuesOnBars) return std::nullopt;
  std::size_t widest = 0;
  for (std::size_t bar = 0; bar < values.size(); ++bar)
    widest = std::max(widest, display_width(readable_cell(values, bar)));
  const auto fits = [&](double character) {
    return character * static_cast<double>(widest) + kGap <= per_bar;
  };
  if (fits(Drawing::kCharacter)) return Lettering::text;
  return fits(Drawing::kSmallCharacter) ? std::optional(Lettering::small) : std::nullopt;
}

}  // namespace

void draw_chart(const result::BarChart& chart, const result::Table& marks, PlotArea area, Drawing& drawing) {
  const result::TableColumn& labels = marks.column(chart.label);
  const result::TableColumn& values = marks.column(chart.value);
  const auto [smallest, largest] = value_range({&values});
  const std::vector<double> ticks = round_ticks(largest, smallest, has_fractions(values.unit));
  drawing.text(area.left, area.top - 14, chart.value_title);
  area.left += Drawing::kCharacter * static_cast<double>(widest_label(ticks, values.unit)) + 16;
  area.top -= 62;
  area.bottom += chart.label_title.empty() ? 30 : 56;
  const double label_y = area.bottom - 22;
  if (smallest < 0) area.bottom += 30;  // for values below their bars
  const auto y_of = [&](double value) {
    return area.bottom + (value - ticks.front()) / (ticks.back() - ticks.front()) * area.height();
  };
  for (const double tick : ticks) {
    drawing.line({{area.left, y_of(tick)}, {area.right, y_of(tick)}}, colour::kGrid, 1);
    drawing.text(area.left - 12, y_of(tick), tick_label(tick, values.unit), Align::right);
  }
  const std::size_t bars = marks.rows();
  const double per_bar = area.width() / static_cast<double>(bars);
  const std::vector<bool> with_label = labels_with_room(labels, chart.axis, per_bar, chart.other);
  const std::optional<Lettering> value_lettering = lettering_of_values(values, per_bar);
  for (std::size_t bar = 0; bar < bars; ++bar) {
    const double middle = area.left + per_bar * (static_cast<double>(bar) + 0.5);
    const double value = mark_value(values, bar);
    if (with_label[bar]) drawing.text(middle, label_y, axis_label(labels.text(bar), middle), Align::center);
    if (std::isnan(value)) continue;
    drawing.rectangle(middle - 0.36 * per_bar, std::min(y_of(0), y_of(value)), middle + 0.36 * per_bar,
                      std::max(y_of(0), y_of(value)), bar_colour(chart, bar, bars, value));
    if (value_lettering || is_noticed(chart.noticed, bar))
      drawing.text(middle, y_of(value) + (value < 0 ? -16 : 16), readable_cell(values, bar), Align::center,
                   colour::kInk, value_lettering.value_or(Lettering::text));
  }
  drawing.text((area.left + area.right) / 2, 26, chart.label_title, Align::center);
}

}  // namespace pear::output
