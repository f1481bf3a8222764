#include "output/charts/plot.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <limits>
#include <system_error>

#include <fmt/format.h>

#include "base/text.hpp"
#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

constexpr double kLightest = 0.25;  ///< of ordered series and bars, so that the first one is visible

/// Months from one label to the next, if a month needs this many characters.
std::size_t months_per_label(double characters_per_month) {
  constexpr double kLabelAndGap = 8.5;  // "2024-09"
  for (const std::size_t months : {1U, 3U, 6U, 12U, 24U, 60U}) {
    if (static_cast<double>(months) * characters_per_month >= kLabelAndGap) return months;
  }
  return 120;
}

/// The number of the month of "2024-09"; nothing for other labels, such as "other (8)" or "(empty)".
std::optional<std::size_t> month_number(std::string_view label) {
  std::size_t year = 0, month = 0;
  const auto reads = [&](std::size_t from, std::size_t count, std::size_t& number) {
    const auto [end, fault] = std::from_chars(label.data() + from, label.data() + from + count, number);
    return fault == std::errc() && end == label.data() + from + count;
  };
  if (label.size() != 7 || label[4] != '-' || !reads(0, 4, year) || !reads(5, 2, month)) return std::nullopt;
  return year * 12 + month - 1;
}

bool are_months(const result::TableColumn& labels) {
  for (std::size_t mark = 0; mark < labels.size(); ++mark)
    if (!month_number(labels.text(mark))) return false;
  return true;
}

/// Days in steps of months, as many as fit.
std::vector<bool> days_with_room(std::size_t days, double per_day) {
  constexpr std::size_t kMonth = 30;
  constexpr double kPerLabel = 60;
  std::size_t step = kMonth;
  while (static_cast<double>(step) * per_day < kPerLabel) step += kMonth;
  std::vector<bool> shown(days);
  for (std::size_t day = 0; day < days; day += step) shown[day] = true;
  return shown;
}

}  // namespace

Series series_of(const result::Table& marks, const std::vector<std::string>& names) {
  Series series;
  for (const std::string& name : names) series.push_back(&marks.column(name));
  return series;
}

double mark_value(const result::TableColumn& column, std::size_t row) {
  if (column.is_empty(row)) return std::numeric_limits<double>::quiet_NaN();
  switch (column.unit) {
    case result::Unit::share:
      return 100 * column.fraction(row);
    case result::Unit::probability:
      return column.fraction(row);
    case result::Unit::money:
    case result::Unit::number:
      return static_cast<double>(column.integer(row)) / Decimal::kScale;
    default:
      return static_cast<double>(column.integer(row));
  }
}

std::pair<double, double> value_range(const Series& series, bool stacked) {
  std::pair<double, double> range = {0, 0};
  for (std::size_t row = 0; row < series.front()->size(); ++row) {
    double sum = 0;
    for (const result::TableColumn* column : series) {
      const double value = mark_value(*column, row);
      if (std::isnan(value)) continue;
      sum = stacked ? sum + value : value;
      range = {std::min(range.first, sum), std::max(range.second, sum)};
    }
  }
  return range;
}

std::vector<double> round_ticks(double largest, double smallest, bool fractions) {
  constexpr double kMostSteps = 6;
  const double span = std::max(largest, -smallest);
  double factor = 1;
  while (fractions && span > 0 && span * factor < 2) factor *= 10;
  double step = 1;
  while ((largest - smallest) * factor / step > kMostSteps) step *= 10;
  for (const double finer : {step / 5, step / 2}) {
    if (finer >= 1 && (largest - smallest) * factor / finer <= kMostSteps) {
      step = finer;
      break;
    }
  }
  std::vector<double> ticks{std::floor(smallest * factor / step) * step};
  do ticks.push_back(ticks.back() + step);
  while (ticks.back() < largest * factor * (1 - 1e-9));  // shares may add up to a little more than 1
  for (double& tick : ticks) tick /= factor;
  return ticks;
}

bool has_fractions(result::Unit unit) { return unit == result::Unit::money || unit == result::Unit::number; }

std::string tick_label(double tick, result::Unit unit) {
  if (unit == result::Unit::share) return fmt::format("{}%", tick);
  if (std::floor(tick) == tick) return with_thousands(static_cast<std::int64_t>(tick));
  return fmt::format("{:g}", tick);
}

std::size_t widest_label(const std::vector<double>& ticks, result::Unit unit) {
  std::size_t widest = 0;
  for (const double tick : ticks) widest = std::max(widest, display_width(tick_label(tick, unit)));
  return widest;
}

int shade_in_order(std::size_t bar, std::size_t bars) {
  return colour::shade(
      bars < 2 ? 1 : kLightest + (1 - kLightest) * static_cast<double>(bar) / static_cast<double>(bars - 1));
}

std::vector<int> series_colours(std::size_t series, bool in_order) {
  constexpr std::array<int, 8> kDistinct = {colour::kPine, colour::kPear,  colour::kSage, colour::kOchre,
                                            colour::kPlum, colour::kSlate, colour::kInk,  colour::kOther};
  std::vector<int> colours;
  for (std::size_t i = 0; i < series; ++i)
    colours.push_back(in_order ? shade_in_order(i, series) : kDistinct.at(i % kDistinct.size()));
  return colours;
}

void draw_legend(const Series& series, const std::vector<int>& colours, PlotArea& area, Drawing& drawing) {
  constexpr double kSquare = 16;
  double x = area.left;
  double y = area.top - 12;
  for (std::size_t i = 0; i < series.size(); ++i) {
    const std::string name = cut_to_width(series[i]->title(), 24);
    const double width = kSquare + 8 + Drawing::kCharacter * static_cast<double>(display_width(name)) + 26;
    if (x + width > area.right && x > area.left) {
      x = area.left;
      y -= 28;
    }
    drawing.rectangle(x, y - kSquare / 2, x + kSquare, y + kSquare / 2, colours[i]);
    drawing.text(x + kSquare + 8, y, name);
    x += width;
  }
  area.top = y - 26;
}

RowLayout layout_rows(const PlotArea& area, std::size_t rows) {
  RowLayout layout;
  layout.per_row = std::min(92.0, area.height() / static_cast<double>(rows));
  layout.thickness = (layout.per_row > 50 ? 0.6 : 0.74) * layout.per_row;
  layout.lettering = layout.per_row < 24 ? Lettering::small : Lettering::text;
  layout.rows_per_label = rows_per_label(layout.per_row);
  return layout;
}

std::size_t rows_per_label(double per_row) {
  constexpr double kLabel = 13;  // pixels of a small one
  return static_cast<std::size_t>(std::max(1.0, std::ceil(kLabel / per_row)));
}

std::size_t label_width(const result::TableColumn& labels) {
  std::size_t widest = 0;
  for (std::size_t row = 0; row < labels.size(); ++row)
    widest = std::max(widest, display_width(labels.text(row)));
  return std::min<std::size_t>(widest, 44);
}

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

bool is_noticed(const std::vector<std::size_t>& noticed, std::size_t mark) {
  return std::find(noticed.begin(), noticed.end(), mark) != noticed.end();
}

namespace {

constexpr std::size_t kMostAlongAxis = 26;  ///< characters

double half_width(std::string_view label) {
  return Drawing::kCharacter * static_cast<double>(std::min(display_width(label), kMostAlongAxis)) / 2;
}

}  // namespace

std::string axis_label(std::string_view text, double x) {
  const double room = 2 * std::min(x, Drawing::kWidth - x) / Drawing::kCharacter;
  return cut_to_width(text, std::min(kMostAlongAxis, static_cast<std::size_t>(std::max(1.0, room))));
}

std::vector<bool> labels_with_room(const result::TableColumn& labels, result::LabelAxis axis, double per_mark,
                                   std::optional<std::size_t> other) {
  constexpr double kGap = 14;
  if (axis == result::LabelAxis::days) return days_with_room(labels.size(), per_mark);
  if (axis == result::LabelAxis::months && !are_months(labels)) axis = result::LabelAxis::categories;
  std::vector<bool> shown(labels.size());
  const std::size_t step = months_per_label(per_mark / Drawing::kCharacter);
  double free_from = -per_mark;
  for (std::size_t mark = 0; mark < shown.size(); ++mark) {
    const double middle = per_mark * static_cast<double>(mark);
    const double half = half_width(labels.text(mark));
    const bool fits = axis == result::LabelAxis::months ? *month_number(labels.text(mark)) % step == 0
                                                        : middle - half >= free_from;
    if (!fits) continue;
    shown[mark] = true;
    free_from = middle + half + kGap;
  }
  if (axis == result::LabelAxis::months || other != shown.size() - 1 || shown.back()) return shown;
  const double begin =
      per_mark * static_cast<double>(shown.size() - 1) - half_width(labels.text(shown.size() - 1));
  for (std::size_t mark = shown.size() - 1;
       mark-- > 0;) {  // the label of the combined rest is needed: others make room
    const double half = half_width(labels.text(mark));
    if (per_mark * static_cast<double>(mark) + half + kGap < begin) break;
    shown[mark] = false;
  }
  shown.back() = true;
  return shown;
}

}  // namespace pear::output
