#include "output/charts/chart.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include <fmt/format.h>

#include "base/text.hpp"
#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

constexpr double kLeft = 40;  // where the texts begin
constexpr double kTitleTop = Drawing::kHeight - 46;
constexpr double kTitleLine = 38;
constexpr std::size_t kTitleWidth = 68;  // characters of a title that fit
constexpr std::size_t kSubtitleWidth = 118;

/// Title and subtitle; what is left below them.
PlotArea draw_heading(const result::Figure& figure, Drawing& drawing) {
  double y = kTitleTop;
  for (const std::string& line : wrapped(figure.title, kTitleWidth)) {
    drawing.text(kLeft, y, line, Align::left, colour::kInk, Lettering::title);
    y -= kTitleLine;
  }
  for (const std::string& line : wrapped(figure.subtitle, kSubtitleWidth)) {
    drawing.text(kLeft, y, line);
    y -= 26;
  }
  return {kLeft, Drawing::kWidth - 40, 40, y - 4};
}

/// Months from one label to the next, where a month takes so many characters.
std::size_t months_per_label(double characters_per_month) {
  constexpr double kLabelAndGap = 8.5;  // "2024-09"
  for (const std::size_t months : {1U, 3U, 6U, 12U, 24U, 60U}) {
    if (static_cast<double>(months) * characters_per_month >= kLabelAndGap) return months;
  }
  return 120;
}

std::size_t month_number(std::string_view label) {
  const std::string month(label);  // "2024-09"
  return std::stoul(month.substr(0, 4)) * 12 + std::stoul(month.substr(5)) - 1;
}

}  // namespace

Drawing draw(const result::Figure& figure) {
  Drawing drawing;
  const PlotArea area = draw_heading(figure, drawing);
  switch (figure.kind) {
    case result::Figure::Kind::bars:
      draw_bars(figure, area, drawing);
      break;
    case result::Figure::Kind::ranked_bars:
    case result::Figure::Kind::stacked_bars:
    case result::Figure::Kind::grouped_bars:
      draw_ranked(figure, area, drawing);
      break;
    case result::Figure::Kind::lines:
      draw_lines(figure, area, drawing);
      break;
    case result::Figure::Kind::heat_map:
      draw_heat_map(figure, area, drawing);
      break;
    case result::Figure::Kind::intervals:
      draw_intervals(figure, area, drawing);
      break;
    case result::Figure::Kind::small_multiples:
      draw_panels(figure, area, drawing);
      break;
    case result::Figure::Kind::curves:
      draw_curves(figure, area, drawing);
      break;
    case result::Figure::Kind::arrows:
      draw_arrows(figure, area, drawing);
      break;
    case result::Figure::Kind::flow:
      draw_flow(figure, area, drawing);
      break;
    case result::Figure::Kind::network:
      draw_network(figure, area, drawing);
      break;
    case result::Figure::Kind::scatter:
      draw_scatter(figure, area, drawing);
      break;
    case result::Figure::Kind::timeline:
      draw_timeline(figure, area, drawing);
      break;
  }
  return drawing;
}

double mark_value(const result::TableColumn& column, std::size_t row) {
  if (column.is_empty(row)) return std::numeric_limits<double>::quiet_NaN();
  switch (column.unit) {
    case result::Unit::share:
      return 100 * column.fraction(row);
    case result::Unit::chance:
      return column.fraction(row);
    case result::Unit::money:
    case result::Unit::number:
      return static_cast<double>(column.integer(row)) / Decimal::kScale;
    default:
      return static_cast<double>(column.integer(row));
  }
}

std::pair<double, double> value_range(const result::Figure& figure) {
  std::pair<double, double> range = {0, 0};
  const bool stacked = figure.kind == result::Figure::Kind::stacked_bars;
  for (std::size_t row = 0; row < figure.marks.rows(); ++row) {
    double sum = 0;
    for (const std::size_t series : figure.values) {
      const double value = mark_value(figure.marks.columns[series], row);
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

std::string tick_label(double tick, result::Unit unit) {
  if (unit == result::Unit::share) return fmt::format("{}%", tick);
  if (std::floor(tick) == tick) return with_thousands(static_cast<std::int64_t>(tick));
  return fmt::format("{:g}", tick);
}

std::vector<int> series_colours(const result::Figure& figure) {
  constexpr std::array<int, 8> kApart = {colour::kPine, colour::kPear,  colour::kSage, colour::kOchre,
                                         colour::kPlum, colour::kSlate, colour::kInk,  colour::kOther};
  std::vector<int> colours;
  const std::size_t count = figure.values.size();
  for (std::size_t i = 0; i < count; ++i) {
    const double strength =
        count == 1 ? 1 : 0.25 + 0.75 * static_cast<double>(i) / static_cast<double>(count - 1);
    colours.push_back(figure.series_in_order ? colour::shade(strength) : kApart.at(i % kApart.size()));
  }
  return colours;
}

void draw_legend(const result::Figure& figure, PlotArea& area, Drawing& drawing) {
  constexpr double kSquare = 16;
  const std::vector<int> colours = series_colours(figure);
  double x = area.left;
  double y = area.top - 12;
  for (std::size_t i = 0; i < figure.values.size(); ++i) {
    const std::string name = cut_to_width(figure.marks.columns[figure.values[i]].name, 24);
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
  return layout;
}

std::size_t label_width(const result::TableColumn& labels) {
  std::size_t widest = 0;
  for (std::size_t row = 0; row < labels.size(); ++row)
    widest = std::max(widest, display_width(labels.text(row)));
  return std::min<std::size_t>(widest, 44);
}

bool is_noticed(const result::Figure& figure, std::size_t mark) {
  return std::find(figure.noticed.begin(), figure.noticed.end(), mark) != figure.noticed.end();
}

namespace {

/// Days in steps of months, as many as have room.
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

std::vector<bool> labels_with_room(const result::Figure& figure, double per_mark) {
  constexpr double kGap = 14;
  if (figure.axis == result::Figure::Axis::days) return days_with_room(figure.marks.rows(), per_mark);
  const result::TableColumn& labels = figure.marks.columns[figure.label];
  std::vector<bool> shown(figure.marks.rows());
  const std::size_t step = months_per_label(per_mark / Drawing::kCharacter);
  double free_from = -per_mark;
  for (std::size_t mark = 0; mark < shown.size(); ++mark) {
    const double middle = per_mark * static_cast<double>(mark);
    const double half = Drawing::kCharacter * static_cast<double>(display_width(labels.text(mark))) / 2;
    const bool fits = figure.axis == result::Figure::Axis::months
                          ? month_number(labels.text(mark)) % step == 0
                          : middle - half >= free_from;
    if (!fits) continue;
    shown[mark] = true;
    free_from = middle + half + kGap;
  }
  if (figure.axis == result::Figure::Axis::months || figure.gathered != shown.size() - 1 || shown.back())
    return shown;
  const double begin =
      per_mark * static_cast<double>(shown.size() - 1) -
      Drawing::kCharacter * static_cast<double>(display_width(labels.text(shown.size() - 1))) / 2;
  for (std::size_t mark = shown.size() - 1; mark-- > 0;) {  // what gathers must be told: others make room
    const double half = Drawing::kCharacter * static_cast<double>(display_width(labels.text(mark))) / 2;
    if (per_mark * static_cast<double>(mark) + half + kGap < begin) break;
    shown[mark] = false;
  }
  shown.back() = true;
  return shown;
}

}  // namespace pear::output
