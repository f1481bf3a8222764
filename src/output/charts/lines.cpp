// Lines over time, each with its name at its end.
#include <algorithm>
#include <cmath>
#include <string>

#include "output/charts/chart.hpp"
#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

/// Where names stand so that none covers another: as near to the ends of their lines as there is room.
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

void draw_lines(const result::Figure& figure, PlotArea area, Drawing& drawing) {
  const result::TableColumn& labels = figure.marks.columns[figure.label];
  const result::Unit unit = figure.marks.columns[figure.values.front()].unit;
  const auto [smallest, largest] = value_range(figure);
  const std::vector<double> ticks =
      round_ticks(largest, smallest, unit == result::Unit::money || unit == result::Unit::number);
  drawing.text(area.left, area.top - 14, figure.value_title);
  std::size_t widest = 0;
  for (const double tick : ticks) widest = std::max(widest, display_width(tick_label(tick, unit)));
  const std::size_t most = figure.axis == result::Figure::Axis::days ? 36 : 20;  // characters of a name
  std::size_t longest = 0;
  for (const std::size_t series : figure.values)
    longest = std::max(longest, std::min(most, display_width(figure.marks.columns[series].name)));
  area.left += Drawing::kCharacter * static_cast<double>(widest) + 16;
  area.right -= Drawing::kCharacter * static_cast<double>(longest) + 14;
  area.top -= 50;
  area.bottom += figure.label_title.empty() ? 30 : 56;
  const auto y_of = [&](double value) {
    return area.bottom + (value - ticks.front()) / (ticks.back() - ticks.front()) * area.height();
  };
  for (const double tick : ticks) {
    drawing.line({{area.left, y_of(tick)}, {area.right, y_of(tick)}}, colour::kGrid, 1);
    drawing.text(area.left - 12, y_of(tick), tick_label(tick, unit), Align::right);
  }
  const std::size_t marks = figure.marks.rows();
  const double step = area.width() / static_cast<double>(std::max<std::size_t>(1, marks - 1));
  const std::vector<bool> with_label = labels_with_room(figure, step);
  for (std::size_t mark = 0; mark < marks; ++mark) {
    if (with_label[mark])
      drawing.text(area.left + step * static_cast<double>(mark), area.bottom - 22, labels.text(mark),
                   Align::center);
  }
  const std::vector<int> colours = series_colours(figure);
  std::vector<std::pair<double, std::size_t>> ends;
  for (std::size_t i = 0; i < figure.values.size(); ++i) {
    const result::TableColumn& values = figure.marks.columns[figure.values[i]];
    std::vector<std::pair<double, double>> points;
    double end = area.bottom;
    for (std::size_t mark = 0; mark < marks; ++mark) {
      const double value = mark_value(values, mark);
      if (std::isnan(value)) {  // a gap in the line
        if (!points.empty()) drawing.line(points, colours[i], 3);
        points.clear();
        continue;
      }
      const std::size_t so_far = points.size();
      if (so_far > 1 && points[so_far - 1].second == y_of(value) && points[so_far - 2].second == y_of(value))
        points.pop_back();  // level: one stroke looks cleaner than many
      points.emplace_back(area.left + step * static_cast<double>(mark), y_of(value));
      end = y_of(value);
    }
    if (!points.empty()) drawing.line(points, colours[i], 3);
    ends.emplace_back(end, i);
  }
  const std::vector<double> places = spread_apart(ends, area.bottom, area.top);
  for (std::size_t i = 0; i < figure.values.size(); ++i)
    drawing.text(area.right + 10, places[i], cut_to_width(figure.marks.columns[figure.values[i]].name, most),
                 Align::left, colours[i]);
  drawing.text((area.left + area.right) / 2, 26, figure.label_title, Align::center);
}

}  // namespace pear::output
