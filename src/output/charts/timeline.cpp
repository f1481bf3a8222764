#include "output/charts/timeline.hpp"

#include <algorithm>
#include <cmath>

#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

/// The days to label: the first of every few months, or every few days if the time is short.
std::vector<Date> labelled_days(Date first, Date last, double width) {
  constexpr double kLabel = 120;
  const auto most = static_cast<std::int32_t>(std::max(1.0, width / kLabel));
  std::vector<Date> days;
  constexpr std::int32_t kShort = 120;
  if (days_between(first, last) <= kShort) {
    const std::int32_t step = std::max(1, (days_between(first, last) + most) / most);
    for (Date day = first; day <= last; day.days += step) days.push_back(day);
    return days;
  }
  std::int32_t months = 1;
  while (days_between(first, last) / 30 / months > most) months += months < 3 ? 1 : months < 12 ? 3 : 12;
  for (Month month = month_of(first); month <= month_of(last); ++month.index) {
    const Date day = date_of(month.index / 12, static_cast<unsigned>(month.index % 12 + 1), 1);
    if (month.index % months == 0 && day >= first && day <= last) days.push_back(day);
  }
  return days;
}

/// Largest and smallest height of the stems, which extend from 0 to both sides.
std::pair<double, double> stem_range(const Series& series) {
  std::pair<double, double> range = {0, 0};
  for (std::size_t mark = 0; mark < series.front()->size(); ++mark) {
    double above = 0, below = 0;
    for (const result::TableColumn* column : series) {
      const double value = mark_value(*column, mark);
      (value < 0 ? below : above) += std::isnan(value) ? 0 : value;
    }
    range = {std::min(range.first, below), std::max(range.second, above)};
  }
  return range;
}

}  // namespace

void draw_chart(const result::Timeline& chart, const result::Table& marks, PlotArea area, Drawing& drawing) {
  const result::TableColumn& dates = marks.column(chart.date);
  const Series series = series_of(marks, chart.series);
  const std::vector<int> colours = series_colours(series.size(), false);
  const result::Unit unit = series.front()->unit;
  const auto [smallest, largest] = stem_range(series);
  const std::vector<double> ticks = round_ticks(largest, smallest, unit != result::Unit::count);
  if (series.size() > 1) draw_legend(series, colours, area, drawing);
  drawing.text(area.left, area.top - 14, chart.value_title);
  area.left += Drawing::kCharacter * static_cast<double>(widest_label(ticks, unit)) + 30;
  area.right -= 20;
  area.top -= 50;
  area.bottom += 30;
  const std::size_t count = marks.rows();
  const Date first{static_cast<std::int32_t>(dates.integer(0))},
      last{static_cast<std::int32_t>(dates.integer(count - 1))};
  const double span = std::max(1, days_between(first, last));
  const auto x_of = [&](std::int64_t day) {
    return first == last ? (area.left + area.right) / 2
                         : area.left + static_cast<double>(day - first.days) / span * area.width();
  };
  const auto y_of = [&](double value) {
    return area.bottom + (value - ticks.front()) / (ticks.back() - ticks.front()) * area.height();
  };
  for (const double tick : ticks) {
    drawing.line({{area.left - 10, y_of(tick)}, {area.right + 10, y_of(tick)}}, colour::kGrid, 1);
    drawing.text(area.left - 20, y_of(tick), tick_label(tick, unit), Align::right);
  }
  for (const Date day : labelled_days(first, last, area.width()))
    drawing.text(x_of(day.days), area.bottom - 22, to_text(day), Align::center);
  const double thickness = std::clamp(area.width() / static_cast<double>(count) / 2, 2.0, 9.0);
  for (std::size_t mark = 0; mark < count; ++mark) {
    const double x = x_of(dates.integer(mark));
    double above = 0, below = 0;
    for (std::size_t i = 0; i < series.size(); ++i) {
      const double value = mark_value(*series[i], mark);
      if (std::isnan(value) || value == 0) continue;
      double& from = value < 0 ? below : above;
      drawing.rectangle(x - thickness / 2, y_of(std::min(from, from + value)), x + thickness / 2,
                        y_of(std::max(from, from + value)), value < 0 ? colour::kPlum : colours[i]);
      from += value;
    }
  }
}

}  // namespace pear::output
