#include "output/charts/scatter.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>
#include <vector>

#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

/// From values to pixels. Values of a logarithmic scale are above 0.
class Scale {
 public:
  Scale(double smallest, double largest, double power_from, double begin, double end)
      : by_powers_(smallest > 0 && largest / smallest >= power_from), begin_(begin), end_(end) {
    const double room = by_powers_ ? 0.04 : (largest - smallest) * 0.06;
    low_ = place(smallest) - (room > 0 ? room : 0.5);
    high_ = place(largest) + (room > 0 ? room : 0.5);
  }

  [[nodiscard]] double pixel(double value) const {
    return begin_ + (place(value) - low_) / (high_ - low_) * (end_ - begin_);
  }

  /// Round values within the scale: 1, 2 and 5 times powers of ten.
  [[nodiscard]] std::vector<double> ticks() const { return by_powers_ ? power_ticks() : even_ticks(); }

 private:
  [[nodiscard]] double place(double value) const { return by_powers_ ? std::log10(value) : value; }

  [[nodiscard]] std::vector<double> power_ticks() const {
    std::vector<double> ticks;
    for (double power = std::floor(low_); power <= high_; ++power) {
      for (const double factor : {1.0, 2.0, 5.0}) {
        const double tick = factor * std::pow(10, power);
        if (std::log10(tick) >= low_ && std::log10(tick) <= high_) ticks.push_back(tick);
      }
    }
    return ticks;
  }

  [[nodiscard]] std::vector<double> even_ticks() const {
    constexpr double kMost = 9;
    double step = std::pow(10, std::floor(std::log10((high_ - low_) / kMost)));
    for (const double factor : {2.0, 2.5, 2.0}) {  // 2, 5, 10 times
      if ((high_ - low_) / step <= kMost) break;
      step *= factor;
    }
    std::vector<double> ticks;
    for (double tick = std::ceil(low_ / step); tick * step <= high_; ++tick)
      ticks.push_back(tick * step + 0.0);  // no -0
    return ticks;
  }

  bool by_powers_;
  double begin_, end_, low_ = 0, high_ = 1;
};

/// The value to compare with, as it is drawn.
std::optional<double> reference_of(const result::ScatterChart& chart, const result::Table& marks) {
  if (!chart.reference) return std::nullopt;
  return marks.column(chart.value).unit == result::Unit::share ? 100 * *chart.reference : *chart.reference;
}

struct Frame {
  PlotArea area;
  Scale x, y;
};

constexpr double kPoint = 6;  ///< pixels of a point's side

/// Points at the same place are drawn as one, darker the more there are. If there are many, points that would
/// cover each other count as one.
void draw_points(const result::ScatterChart& chart, const result::Table& marks, const Frame& frame,
                 Drawing& drawing) {
  const result::TableColumn& along = marks.column(chart.along);
  const result::TableColumn& values = marks.column(chart.value);
  std::map<std::pair<long, long>, std::size_t> points;
  std::size_t most = 1;
  constexpr std::size_t kMany = 5000;
  const double grid = marks.rows() > kMany ? kPoint : 1;
  for (std::size_t mark = 0; mark < marks.rows(); ++mark) {
    const double x = frame.x.pixel(mark_value(along, mark)), y = frame.y.pixel(mark_value(values, mark));
    if (!std::isnan(y)) most = std::max(most, ++points[{std::lround(x / grid), std::lround(y / grid)}]);
  }
  for (const auto& [place, count] : points) {
    const double x = static_cast<double>(place.first) * grid, y = static_cast<double>(place.second) * grid;
    const double strength =
        most == 1 ? 0.6
                  : 0.45 + 0.55 * std::log(static_cast<double>(count)) / std::log(static_cast<double>(most));
    drawing.rectangle(x - kPoint / 2, y - kPoint / 2, x + kPoint / 2, y + kPoint / 2,
                      colour::shade(strength));
  }
}

struct Box {
  double left, bottom, right, top;
  [[nodiscard]] bool meets(const Box& other) const {
    return left < other.right && other.left < right && bottom < other.top && other.bottom < top;
  }
};

/// The line of levels, and its label at the right end.
std::vector<Box> draw_steps(const result::ScatterChart& chart, const Frame& frame, Drawing& drawing) {
  std::vector<std::pair<double, double>> line;
  std::vector<Box> taken;
  for (std::size_t i = 0; i < chart.steps.size(); ++i) {
    const double y = frame.y.pixel(100 * chart.steps[i].second);
    const bool last = i + 1 == chart.steps.size();
    const auto within = [&](double x) {
      return std::clamp(frame.x.pixel(x), frame.area.left, frame.area.right);
    };
    line.emplace_back(within(chart.steps[i].first), y);
    line.emplace_back(last ? frame.area.right : within(chart.steps[i + 1].first), y);
  }
  if (line.empty()) return taken;
  for (std::size_t i = 1; i < line.size(); ++i)
    taken.push_back({line[i - 1].first - 2, line[i].second - 2, line[i].first + 2, line[i - 1].second + 2});
  drawing.line(line, colour::kInk, 2.5);
  const double width = Drawing::kCharacter * static_cast<double>(display_width(chart.reference_label));
  const double y = line.back().second + 16;
  drawing.rectangle(frame.area.right - width, y - 10, frame.area.right, y + 10, colour::kWhite);
  drawing.text(frame.area.right, y, chart.reference_label, Align::right, colour::kInk);
  taken.push_back({frame.area.right - width, y - 10, frame.area.right, y + 10});
  return taken;
}

/// A free place for a name next to a point, at most three rows up or down, with room for a line to it.
struct NamePlace {
  Box box;
  double side = 0, x = 0, y = 0;  ///< 1: begins at x; -1: ends there
};

std::optional<NamePlace> free_place(double x, double y, double width, const PlotArea& area,
                                    const std::vector<Box>& taken) {
  constexpr double kHigh = 22, kGap = 12, kHalf = 6;
  const auto is_free = [&](const Box& box) {
    return std::none_of(taken.begin(), taken.end(), [&](const Box& each) { return each.meets(box); });
  };
  for (const double up : {0.0, 1.0, -1.0, 2.0, -2.0, 3.0, -3.0}) {
    for (const double side : {1.0, -1.0}) {
      const double at = x + side * kGap, middle = y + up * kHigh;
      const Box box{side > 0 ? at : at - width, middle - kHigh / 2, side > 0 ? at + width : at,
                    middle + kHigh / 2};
      const Box lead{std::min(x, at), std::min(y, middle) + kHalf, std::max(x, at),
                     std::max(y, middle) - kHalf};
      const bool inside = box.left >= area.left && box.right <= area.right && box.bottom >= area.bottom;
      if (inside && is_free(box) && (up == 0 || is_free(lead))) return NamePlace{box, side, at, middle};
    }
  }
  return std::nullopt;
}

/// The highlighted marks, and their names if there is a free place next to them.
void draw_noticed(const result::ScatterChart& chart, const result::Table& marks, const Frame& frame,
                  std::vector<Box> taken, Drawing& drawing) {
  const result::TableColumn& names = marks.column(chart.label);
  const result::TableColumn& along = marks.column(chart.along);
  const result::TableColumn& values = marks.column(chart.value);
  constexpr double kHalf = 5;
  const auto at = [&](std::size_t mark) {
    return std::pair(frame.x.pixel(mark_value(along, mark)), frame.y.pixel(mark_value(values, mark)));
  };
  if (const auto reference = reference_of(chart, marks))
    taken.push_back(
        {frame.area.left, frame.y.pixel(*reference) - 2, frame.area.right, frame.y.pixel(*reference) + 2});
  constexpr std::size_t kFew = 200;  // with many points there is no room for names
  for (std::size_t mark = 0; mark < marks.rows() && marks.rows() <= kFew; ++mark) {
    const auto [x, y] = at(mark);
    taken.push_back({x - kPoint / 2, y - kPoint / 2, x + kPoint / 2, y + kPoint / 2});
  }
  for (const std::size_t mark : chart.noticed) {
    const auto [x, y] = at(mark);
    drawing.rectangle(x - kHalf, y - kHalf, x + kHalf, y + kHalf, colour::kOchre);
    taken.push_back({x - kHalf, y - kHalf, x + kHalf, y + kHalf});
  }
  for (const std::size_t mark : chart.noticed) {
    const std::string name = cut_to_width(names.text(mark), 30);
    const auto [x, y] = at(mark);
    const double width = Drawing::kCharacter * static_cast<double>(display_width(name));
    const auto place = name.empty() ? std::nullopt : free_place(x, y, width, frame.area, taken);
    if (!place) continue;
    if (place->y != y) drawing.line({{x, y}, {place->x - place->side * 3, place->y}}, colour::kOchre, 1.5);
    drawing.text(place->x, place->y, name, place->side > 0 ? Align::left : Align::right, colour::kInk);
    taken.push_back(place->box);
    taken.push_back(
        {std::min(x, place->x), std::min(y, place->y), std::max(x, place->x), std::max(y, place->y)});
  }
}

/// The smallest and the largest value; and of these others.
std::pair<double, double> range_of(const result::TableColumn& column,
                                   const std::vector<double>& others = {}) {
  std::pair<double, double> range = {NAN, NAN};
  const auto include = [&](double value) {
    range = {std::fmin(range.first, value), std::fmax(range.second, value)};
  };
  for (std::size_t row = 0; row < column.size(); ++row) include(mark_value(column, row));
  for (const double value : others) include(value);
  return range;
}

}  // namespace

void draw_chart(const result::ScatterChart& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing) {
  const result::TableColumn& values = marks.column(chart.value);
  const result::TableColumn& along = marks.column(chart.along);
  const auto [first, last] = range_of(along);
  const auto reference = reference_of(chart, marks);
  std::vector<double> levels;
  if (reference) levels.push_back(*reference);
  for (const auto& [position, level] : chart.steps) levels.push_back(100 * level);
  const auto [low, high] = range_of(values, levels);
  drawing.text(area.left, area.top - 14, chart.value_title);
  area.left += 72;
  area.top -= 40;
  area.bottom += 50;
  const Frame frame{
      area, Scale(first, last, result::is_fraction(along.unit) ? INFINITY : 20, area.left, area.right),
      Scale(low, high, 5, area.bottom, area.top)};
  for (const double tick : frame.y.ticks()) {
    const double y = frame.y.pixel(tick);
    drawing.line({{area.left, y}, {area.right, y}}, tick == reference ? colour::kSlate : colour::kGrid,
                 tick == reference ? 1.5 : 1);
    drawing.text(area.left - 10, y, tick_label(tick, values.unit), Align::right);
  }
  for (const double tick : frame.x.ticks())
    drawing.text(frame.x.pixel(tick), area.bottom - 18, tick_label(tick, along.unit), Align::center);
  drawing.text((area.left + area.right) / 2, 26, chart.label_title, Align::center);
  draw_points(chart, marks, frame, drawing);
  draw_noticed(chart, marks, frame, draw_steps(chart, frame, drawing), drawing);
}

}  // namespace pear::output
