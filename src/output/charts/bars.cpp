// Bars that stand up, and bars that lie: ranked, stacked or grouped.
#include <algorithm>
#include <cmath>

#include "output/charts/chart.hpp"
#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

constexpr std::size_t kMostValuesOnBars = 15;

bool has_fractions(result::Unit unit) { return unit == result::Unit::money || unit == result::Unit::number; }

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

int bar_colour(const result::Figure& figure, std::size_t bar, double value) {
  if (value < 0) return colour::kPlum;
  if (figure.shaded) return shade_of(figure.marks.columns[*figure.shaded], bar);
  if (is_noticed(figure, bar)) return colour::kOchre;
  if (figure.gathered == bar) return colour::kOther;
  if (!figure.marks_in_order || figure.marks.rows() < 2) return colour::kPine;
  return colour::shade(0.25 + 0.75 * static_cast<double>(bar) / static_cast<double>(figure.marks.rows() - 1));
}

/// White on dark grounds.
int ink_on(int ground) {
  const int brightness = 3 * ((ground >> 16) & 0xFF) + 6 * ((ground >> 8) & 0xFF) + (ground & 0xFF);
  return brightness < 1400 ? colour::kWhite : colour::kInk;
}

}  // namespace

void draw_bars(const result::Figure& figure, PlotArea area, Drawing& drawing) {
  const result::TableColumn& labels = figure.marks.columns[figure.label];
  const result::TableColumn& values = figure.marks.columns[figure.values.front()];
  const auto [smallest, largest] = value_range(figure);
  const std::vector<double> ticks = round_ticks(largest, smallest, has_fractions(values.unit));
  drawing.text(area.left, area.top - 14, figure.value_title);
  std::size_t widest = 0;
  for (const double tick : ticks) widest = std::max(widest, display_width(tick_label(tick, values.unit)));
  area.left += Drawing::kCharacter * static_cast<double>(widest) + 16;
  area.top -= 62;
  area.bottom += figure.label_title.empty() ? 30 : 56;
  const auto y_of = [&](double value) {
    return area.bottom + (value - ticks.front()) / (ticks.back() - ticks.front()) * area.height();
  };
  for (const double tick : ticks) {
    drawing.line({{area.left, y_of(tick)}, {area.right, y_of(tick)}}, colour::kGrid, 1);
    drawing.text(area.left - 12, y_of(tick), tick_label(tick, values.unit), Align::right);
  }
  const std::size_t bars = figure.marks.rows();
  const double per_bar = area.width() / static_cast<double>(bars);
  const std::vector<bool> with_label = labels_with_room(figure, per_bar);
  const double label_y = area.bottom - 22;
  for (std::size_t bar = 0; bar < bars; ++bar) {
    const double middle = area.left + per_bar * (static_cast<double>(bar) + 0.5);
    const double value = mark_value(values, bar);
    if (with_label[bar]) drawing.text(middle, label_y, labels.text(bar), Align::center);
    if (std::isnan(value)) continue;
    drawing.rectangle(middle - 0.36 * per_bar, std::min(y_of(0), y_of(value)), middle + 0.36 * per_bar,
                      std::max(y_of(0), y_of(value)), bar_colour(figure, bar, value));
    if (bars <= kMostValuesOnBars || is_noticed(figure, bar))
      drawing.text(middle, y_of(value) + (value < 0 ? -16 : 16), readable_cell(values, bar), Align::center,
                   colour::kInk);
  }
  drawing.text((area.left + area.right) / 2, 26, figure.label_title, Align::center);
}

/// "10.8", or with what it rests on "10.8 (7)".
static std::string bar_text(const result::Figure& figure, const result::TableColumn& values,
                            std::size_t row) {
  const std::string value = readable_cell(values, row);
  if (figure.kind != result::Figure::Kind::ranked_bars || !figure.totals) return value;
  return value + " (" + readable_cell(figure.marks.columns[*figure.totals], row) + ")";
}

void draw_ranked(const result::Figure& figure, PlotArea area, Drawing& drawing) {
  const result::TableColumn& labels = figure.marks.columns[figure.label];
  const bool stacked = figure.kind == result::Figure::Kind::stacked_bars;
  const bool several = figure.values.size() > 1;
  if (several) draw_legend(figure, area, drawing);
  const auto [smallest, largest] = value_range(figure);
  const result::Unit unit = figure.marks.columns[figure.values.front()].unit;
  const std::vector<double> ticks = round_ticks(largest, smallest, has_fractions(unit));
  const std::size_t characters = label_width(labels);
  area.left += Drawing::kCharacter * static_cast<double>(characters) + 14;
  std::size_t longest = 7;  // values stand behind the longest bar
  for (std::size_t row = 0; figure.totals && row < figure.marks.rows(); ++row)
    longest = std::max(longest, 7 + display_width(readable_cell(figure.marks.columns[*figure.totals], row)));
  area.right -= Drawing::kCharacter * static_cast<double>(longest) + 16;
  area.bottom += 44;
  const std::size_t rows = figure.marks.rows();
  const RowLayout layout = layout_rows(area, rows);
  const double foot = area.top - layout.per_row * static_cast<double>(rows);
  const auto x_of = [&](double value) {
    return area.left + (value - ticks.front()) / (ticks.back() - ticks.front()) * area.width();
  };
  for (const double tick : ticks) {
    drawing.line({{x_of(tick), foot}, {x_of(tick), area.top}}, colour::kGrid, 1);
    drawing.text(x_of(tick), foot - 18, tick_label(tick, unit), Align::center);
  }
  drawing.text((area.left + area.right) / 2, foot - 46, figure.value_title, Align::center);
  const std::vector<int> colours = series_colours(figure);
  const bool with_values = stacked || rows * figure.values.size() <= 2 * kMostValuesOnBars;
  for (std::size_t row = 0; row < rows; ++row) {
    const double middle = area.top - layout.per_row * (static_cast<double>(row) + 0.5);
    drawing.text(area.left - 12, middle, cut_to_width(labels.text(row), characters), Align::right,
                 colour::kInk, layout.lettering);
    const double thickness =
        stacked ? layout.thickness : layout.thickness / static_cast<double>(figure.values.size());
    double y = middle + layout.thickness / 2;
    double from = 0;
    for (std::size_t i = 0; i < figure.values.size(); ++i) {
      const result::TableColumn& values = figure.marks.columns[figure.values[i]];
      const double value = mark_value(values, row);
      if (!std::isnan(value)) {
        const int colour = several ? colours[i] : bar_colour(figure, row, value);
        drawing.rectangle(std::min(x_of(from), x_of(from + value)), y - thickness,
                          std::max(x_of(from), x_of(from + value)), y, colour);
        if (!stacked && with_values)
          drawing.text(x_of(std::max(value, 0.0)) + 8, y - thickness / 2, bar_text(figure, values, row),
                       Align::left, colour::kInk, thickness < 18 ? Lettering::small : layout.lettering);
        const std::string share =
            stacked && unit == result::Unit::share && layout.lettering == Lettering::text
                ? readable_cell(values, row)
                : "";
        if (!share.empty() &&
            x_of(value) - x_of(0) > Drawing::kCharacter * static_cast<double>(display_width(share)) + 6)
          drawing.text(x_of(from + value / 2), middle, share, Align::center, ink_on(colour),
                       layout.lettering);
        if (stacked) from += value;
      }
      if (!stacked) y -= thickness;
    }
    if (stacked && figure.totals)
      drawing.text(x_of(from) + 8, middle, readable_cell(figure.marks.columns[*figure.totals], row),
                   Align::left, colour::kInk, layout.lettering);
  }
}

}  // namespace pear::output
