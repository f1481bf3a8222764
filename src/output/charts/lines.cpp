#include "output/charts/lines.hpp"

#include <algorithm>
#include <cmath>
#include <string>

#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

/// Positions of names, so that none covers another: as close to the ends of their lines as possible.
std::vector<double> spread_apart(std::vector<std::pair<double, std::size_t>> ends, double lowest,
                                 double highest) {
  constexpr double kApart = 24;
  std::sort(ends.begin(), ends.end());
  for (std::size_t i = 1; i < ends.size(); ++i)
    ends[i].first = std::max(ends[i].first, ends[i - 1].first + kApart);
  const double over = ends.empty() ? 0 : std::max(0.0, ends.back().first - highest);
  std::vector<double> places(ends.size());
  double above = highest + kApart;
  for (std::size_t i = ends.size(); i-- > 0;) {
    const double place = over > 0 ? std::min(ends[i].first, above - kApart) : ends[i].first;
    above = std::max(place, lowest);
    places[ends[i].second] = above;
  }
  return places;
}

}  // namespace

void draw_chart(const result::LineChart& chart, const result::Table& marks, PlotArea area, Drawing& drawing) {
  const result::TableColumn& labels = marks.column(chart.label);
  const Series series = series_of(marks, chart.series);
  const result::Unit unit = series.front()->unit;
  const auto [smallest, largest] = value_range(series);
  const std::vector<double> ticks = round_ticks(largest, smallest, has_fractions(unit));
  drawing.text(area.left, area.top - 14, chart.value_title);
  const std::size_t most = chart.axis == result::LabelAxis::days ? 36 : 20;  // characters of a name
  std::size_t longest = 0;
  for (const result::TableColumn* column : series)
    longest = std::max(longest, std::min(most, display_width(column->title())));
  area.left += Drawing::kCharacter * static_cast<double>(widest_label(ticks, unit)) + 16;
  area.right -= Drawing::kCharacter * static_cast<double>(longest) + 14;
  area.top -= 50;
  area.bottom += chart.label_title.empty() ? 30 : 56;
  const auto y_of = [&](double value) {
    return area.bottom + (value - ticks.front()) / (ticks.back() - ticks.front()) * area.height();
  };
  for (const double tick : ticks) {
    drawing.line({{area.left, y_of(tick)}, {area.right, y_of(tick)}}, colour::kGrid, 1);
    drawing.text(area.left - 12, y_of(tick), tick_label(tick, unit), Align::right);
  }
  const std::size_t count = marks.rows();
  const double step = area.width() / static_cast<double>(std::max<std::size_t>(1, count - 1));
  const std::vector<bool> with_label = labels_with_room(labels, chart.axis, step);
  for (std::size_t mark = 0; mark < count; ++mark) {
    const double x = area.left + step * static_cast<double>(mark);
    if (with_label[mark]) drawing.text(x, area.bottom - 22, axis_label(labels.text(mark), x), Align::center);
  }
  const std::vector<int> colours = series_colours(series.size(), chart.series_in_order);
  std::vector<std::pair<double, std::size_t>> ends;
  for (std::size_t i = 0; i < series.size(); ++i) {
    const result::TableColumn& values = *series[i];
    std::vector<std::pair<double, double>> points;
    double end = area.bottom;
    for (std::size_t mark = 0; mark < count; ++mark) {
      const double value = mark_value(values, mark);
      if (std::isnan(value)) {  // a gap in the line
        if (!points.empty()) drawing.line(points, colours[i], 3);
        points.clear();
        continue;
      }
      const std::size_t so_far = points.size();
      if (so_far > 1 && points[so_far - 1].second == y_of(value) && points[so_far - 2].second == y_of(value))
        points.pop_back();  // horizontal: one stroke looks cleaner than many
      points.emplace_back(area.left + step * static_cast<double>(mark), y_of(value));
      end = y_of(value);
    }
    if (!points.empty()) drawing.line(points, colours[i], 3);
    ends.emplace_back(end, i);
  }
  const std::vector<double> places = spread_apart(ends, area.bottom, area.top);
  for (std::size_t i = 0; i < series.size(); ++i)
    drawing.text(area.right + 10, places[i], cut_to_width(series[i]->title(), most), Align::left, colours[i]);
  drawing.text((area.left + area.right) / 2, 26, chart.label_title, Align::center);
}

}  // namespace pear::output
