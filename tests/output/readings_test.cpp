// A figure shows its data: what a reader measures by the labels of the axes are the values of the marks.
#include <algorithm>
#include <cmath>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include <absl/strings/str_replace.h>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/date.hpp"
#include "output/charts/plot.hpp"
#include "support/drawn_figure.hpp"

namespace pear::test {
namespace {

/// An axis as a reader sees it: its labels, and where they are.
class ReadAxis {
 public:
  /// The labels with numbers that are aligned like this: those of a vertical axis to the right, those of a
  /// horizontal one in the middle.
  ReadAxis(const output::Drawing& drawing, bool is_vertical) {
    for (const Box& box : texts_of(drawing)) {
      const auto number = number_of(box.text);
      if (!number || box.align != (is_vertical ? "right" : "center")) continue;
      labels_.emplace_back(*number, is_vertical ? (box.bottom + box.top) / 2 : (box.left + box.right) / 2);
    }
    std::sort(labels_.begin(), labels_.end());
    labels_.erase(std::unique(labels_.begin(), labels_.end()), labels_.end());
    is_in_powers_ = labels_.size() > 2 && labels_.front().first > 0 && !is_even();
  }

  [[nodiscard]] bool has_labels() const { return labels_.size() > 1; }
  /// Whether there are enough labels to distinguish even steps from powers.
  [[nodiscard]] bool is_clear() const { return labels_.size() > 2; }
  /// Where a value must be.
  [[nodiscard]] double pixel(double value) const {
    const auto& [from, begin] = labels_.front();
    const auto& [to, end] = labels_.back();
    return begin + (place(value) - place(from)) / (place(to) - place(from)) * (end - begin);
  }
  /// Whether all labels are where the first and the last say.
  [[nodiscard]] bool is_even() const {
    return std::all_of(labels_.begin(), labels_.end(), [&](const auto& label) {
      return std::abs(pixel(label.first) - label.second) < kPixel;
    });
  }

 private:
  [[nodiscard]] double place(double value) const { return is_in_powers_ ? std::log10(value) : value; }
  std::vector<std::pair<double, double>> labels_;
  bool is_in_powers_ = false;
};

RC_GTEST_PROP(Readings, OfVerticalBarsAreTheirValues, ()) {
  result::Figure figure = figure_of_values(static_cast<std::size_t>(pick(1, 20)), 1, false);
  figure.chart = result::BarChart{"label", "series a", result::LabelAxis::categories, {}, {}, {}, {}, {}};
  const output::Drawing drawing = output::draw(figure);
  const ReadAxis axis(drawing, true);
  RC_ASSERT(axis.has_labels() && axis.is_even());
  const std::vector<Box> bars = rectangles_of(drawing);
  std::size_t bar = 0;
  for (std::size_t row = 0; row < figure.marks.rows(); ++row) {
    const double value = value_at(figure, 0, row);
    if (std::isnan(value)) continue;
    RC_ASSERT(std::abs(bars.at(bar).bottom - axis.pixel(std::min(0.0, value))) < kPixel);
    RC_ASSERT(std::abs(bars.at(bar).top - axis.pixel(std::max(0.0, value))) < kPixel);
    if (bar > 0) RC_ASSERT(bars[bar - 1].right < bars[bar].left);
    ++bar;
  }
  RC_ASSERT(bar == bars.size());
}

RC_GTEST_PROP(Readings, OfHorizontalBarsAreTheirValues, ()) {
  const bool stacked = *rc::gen::arbitrary<bool>();
  const auto series = static_cast<std::size_t>(pick(1, 4));
  result::Figure figure = figure_of_values(static_cast<std::size_t>(pick(1, 12)), series, stacked);
  const std::vector<std::string> names = names_of_series(figure);
  if (stacked) {
    figure.chart = result::StackedBarChart{"label", names, "", "", false};
  } else {
    figure.chart = result::GroupedBarChart{"label", names, "", false};
  }
  const output::Drawing drawing = output::draw(figure);
  const ReadAxis axis(drawing, false);
  RC_ASSERT(axis.has_labels() && axis.is_even());
  const std::vector<Box> boxes = rectangles_of(drawing);
  std::size_t box = series > 1 ? series : 0;  // after the legend's
  for (std::size_t row = 0; row < figure.marks.rows(); ++row) {
    double from = 0;
    for (std::size_t i = 0; i < series; ++i) {
      const double value = value_at(figure, i, row);
      if (std::isnan(value)) continue;
      const double to = from + value;
      RC_ASSERT(std::abs(boxes.at(box).left - axis.pixel(std::min(from, to))) < kPixel);
      RC_ASSERT(std::abs(boxes.at(box).right - axis.pixel(std::max(from, to))) < kPixel);
      if (series > 1) RC_ASSERT(boxes[box].text == boxes[i].text);  // the legend's colour
      if (stacked) from = to;
      ++box;
    }
  }
  RC_ASSERT(box == boxes.size());
}

/// The strokes of the thickest lines, each with its points.
std::vector<std::vector<std::pair<double, double>>> strokes_of(const output::Drawing& drawing) {
  std::string tsv;
  for (const auto& [name, text] : drawing.files())
    if (name.starts_with("lines")) tsv = text;  // in order of width
  std::vector<std::vector<std::pair<double, double>>> strokes(1);
  for (const auto& row : tsv_rows(tsv)) {
    if (row.empty()) {
      strokes.emplace_back();
    } else {
      strokes.back().emplace_back(std::stod(row[0]), std::stod(row[1]));
    }
  }
  strokes.pop_back();
  return strokes;
}

/// The height of a stroke there; nothing if it does not reach that far.
std::optional<double> height_at(const std::vector<std::pair<double, double>>& stroke, double x) {
  for (std::size_t i = 0; i < stroke.size(); ++i) {
    if (std::abs(stroke[i].first - x) < kPixel) return stroke[i].second;
    if (i + 1 == stroke.size() || x < stroke[i].first || x > stroke[i + 1].first) continue;
    const double part = (x - stroke[i].first) / (stroke[i + 1].first - stroke[i].first);
    return stroke[i].second + part * (stroke[i + 1].second - stroke[i].second);
  }
  return std::nullopt;
}

RC_GTEST_PROP(Readings, OfLinesAreTheirValues, ()) {
  const auto rows = static_cast<std::size_t>(pick(3, 12));
  result::Figure figure = figure_of_values(rows, 1, false);
  auto& values = std::get<0>(figure.marks.columns[1].values);
  for (const std::size_t end : {std::size_t{0}, rows - 1})
    if (values[end] == result::kEmptyCell) values[end] = 10'000;  // so that the line is as long as the axis
  if (pick(0, 1) == 1) values[1] = values[0], values[2] = values[0];  // a horizontal part
  figure.chart = result::LineChart{"label", {"series a"}, result::LabelAxis::categories, "", "", false};
  const output::Drawing drawing = output::draw(figure);
  const ReadAxis axis(drawing, true);
  RC_ASSERT(axis.has_labels() && axis.is_even());
  const auto strokes = strokes_of(drawing);
  const double left = strokes.front().front().first, right = strokes.back().back().first;
  for (std::size_t row = 0; row < rows; ++row) {
    const double x = left + (right - left) * static_cast<double>(row) / static_cast<double>(rows - 1);
    const double value = value_at(figure, 0, row);
    std::vector<double> heights;
    for (const auto& stroke : strokes)
      if (const auto height = height_at(stroke, x)) heights.push_back(*height);
    RC_ASSERT(heights.size() == (std::isnan(value) ? 0U : 1U));
    if (!heights.empty()) RC_ASSERT(std::abs(heights.front() - axis.pixel(value)) < kPixel);
  }
}

RC_GTEST_PROP(Readings, OfScatteredPointsAreTheirValues, ()) {
  constexpr double kPoint = 6;  // pixels of a point: its place is rounded, and labels may be far from it
  const auto rows = static_cast<std::size_t>(pick(2, 60));
  const int magnitude = pick(1, 5);
  std::vector<std::int64_t> along(rows), values(rows);
  TextArray labels;
  for (std::size_t row = 0; row < rows; ++row) {
    labels.push_back("a customer");
    along[row] = pick(1, static_cast<int>(std::pow(10, magnitude)));
    values[row] = pick(1, static_cast<int>(std::pow(10, pick(1, 6))));
  }
  result::Figure figure;
  figure.marks.columns = {result::text_column("label", "", labels),
                          result::integer_column("along", result::Unit::count, "", along),
                          result::integer_column("value", result::Unit::count, "", values)};
  figure.chart = result::ScatterChart{"label", "along", "value", {}, std::nullopt, "", "", "", {}};
  const output::Drawing drawing = output::draw(figure);
  const ReadAxis x(drawing, false), y(drawing, true);
  RC_ASSERT(y.is_even() && x.is_even());
  if (!x.is_clear() || !y.is_clear()) return;
  std::vector<std::pair<double, double>> points;
  for (const Box& box : rectangles_of(drawing))
    points.emplace_back((box.left + box.right) / 2, (box.bottom + box.top) / 2);
  // Different values use most of the width and of the height.
  const auto span = [&](double (*of)(const std::pair<double, double>&)) {
    const auto [least, most] = std::minmax_element(
        points.begin(), points.end(), [&](const auto& a, const auto& b) { return of(a) < of(b); });
    return of(*most) - of(*least);
  };
  const auto differ = [](const std::vector<std::int64_t>& numbers) {
    return std::adjacent_find(numbers.begin(), numbers.end(), std::not_equal_to<>()) != numbers.end();
  };
  if (differ(along))
    RC_ASSERT(span([](const auto& point) { return point.first; }) > 0.7 * output::Drawing::kWidth);
  if (differ(values))
    RC_ASSERT(span([](const auto& point) { return point.second; }) > 0.5 * output::Drawing::kHeight);
  for (std::size_t row = 0; row < rows; ++row) {
    const double at_x = x.pixel(static_cast<double>(along[row])),
                 at_y = y.pixel(static_cast<double>(values[row]));
    const auto point = std::find_if(points.begin(), points.end(), [&](const auto& each) {
      return std::abs(each.first - at_x) < kPoint && std::abs(each.second - at_y) < kPoint;
    });
    RC_ASSERT(point != points.end());
  }
}

RC_GTEST_PROP(Readings, OfIntervalsAreTheirEnds, ()) {
  const auto rows = static_cast<std::size_t>(pick(1, 12));
  std::vector<double> values(rows), low(rows), high(rows);
  TextArray labels;
  for (std::size_t row = 0; row < rows; ++row) {
    labels.push_back("a product");
    low[row] = pick(0, 300) / 1000.0;
    values[row] = low[row] + pick(0, 300) / 1000.0;
    high[row] = values[row] + pick(1, 300) / 1000.0;
  }
  const double reference = pick(0, 100) / 1000.0;
  result::Figure figure;
  figure.marks.columns = {result::text_column("label", "", labels), result::share_column("value", "", values),
                          result::share_column("low", "", low), result::share_column("high", "", high)};
  figure.chart = result::IntervalChart{"label", "value", "low", "high", "", "", reference, "average", "", {}};
  const output::Drawing drawing = output::draw(figure);
  const ReadAxis axis(drawing, false);
  RC_ASSERT(axis.has_labels() && axis.is_even());
  const std::vector<Box> points = rectangles_of(drawing);
  const auto strokes = strokes_of(drawing);
  RC_ASSERT(points.size() == rows && strokes.size() == rows);
  for (std::size_t row = 0; row < rows; ++row) {
    RC_ASSERT(std::abs((points[row].left + points[row].right) / 2 - axis.pixel(100 * values[row])) < kPixel);
    RC_ASSERT(std::abs(strokes[row].front().first - axis.pixel(100 * low[row])) < kPixel);
    RC_ASSERT(std::abs(strokes[row].back().first - axis.pixel(100 * high[row])) < kPixel);
    RC_ASSERT(points[row].bottom < strokes[row].front().second &&
              strokes[row].front().second < points[row].top);
  }
}

RC_GTEST_PROP(Readings, OfCurvesAreTheirShares, ()) {
  const auto rows = static_cast<std::size_t>(pick(2, 20));
  std::vector<double> share(rows), curve(rows);
  for (std::size_t row = 0; row < rows; ++row) {
    share[row] = static_cast<double>(row) / static_cast<double>(rows - 1);
    curve[row] = std::pow(share[row], pick(0, 100) / 100.0);
  }
  result::Figure figure;
  figure.marks.columns = {result::share_column("share", "", share), result::share_column("curve", "", curve)};
  const bool in_panels = *rc::gen::arbitrary<bool>();
  figure.chart = result::CurveChart{"share", {"curve"}, {}, in_panels, false, "", ""};
  const output::Drawing drawing = output::draw(figure);
  const ReadAxis x(drawing, false), y(drawing, true);
  RC_ASSERT(x.has_labels() && y.has_labels() && x.is_even() && y.is_even());
  const auto strokes = strokes_of(drawing);
  RC_ASSERT(strokes.size() == 1U && strokes.front().size() == rows);
  for (std::size_t row = 0; row < rows; ++row) {
    RC_ASSERT(std::abs(strokes[0][row].first - x.pixel(100 * share[row])) < kPixel);
    RC_ASSERT(std::abs(strokes[0][row].second - y.pixel(100 * curve[row])) < kPixel);
  }
}

/// Stems from zero, those below it in the colour of losses, at places in proportion to time.
RC_GTEST_PROP(Readings, OfStemsAreTheirDatesAndSums, ()) {
  const auto series = static_cast<std::size_t>(pick(1, 3));
  result::Figure figure = figure_of_values(static_cast<std::size_t>(pick(2, 20)), series, false);
  const std::vector<std::string> names = names_of_series(figure);
  std::vector<std::int64_t> days;
  for (std::size_t row = 0; row < figure.marks.rows(); ++row)
    days.push_back(19'000 + (row == 0 ? 0 : days.back() - 19'000 + pick(1, 90)));
  figure.marks.columns.push_back(result::integer_column("date", result::Unit::date, "", days));
  figure.chart = result::Timeline{"date", names, ""};
  const output::Drawing drawing = output::draw(figure);
  const ReadAxis axis(drawing, true);
  RC_ASSERT(axis.has_labels() && axis.is_even());
  const std::vector<Box> stems = rectangles_of(drawing);
  std::size_t stem = series > 1 ? series : 0;
  std::vector<std::pair<double, double>> places;  // day and pixel
  for (std::size_t row = 0; row < figure.marks.rows(); ++row) {
    double above = 0, below = 0;
    for (std::size_t i = 0; i < series; ++i) {
      const double value = value_at(figure, i, row);
      if (std::isnan(value)) continue;
      double& from = value < 0 ? below : above;
      const double to = from + value;
      RC_ASSERT(std::abs(stems.at(stem).bottom - axis.pixel(std::min(from, to))) < kPixel);
      RC_ASSERT(std::abs(stems.at(stem).top - axis.pixel(std::max(from, to))) < kPixel);
      RC_ASSERT((stems[stem].text == std::to_string(output::colour::kPlum)) == (value < 0));
      places.emplace_back(static_cast<double>(days[row]), (stems[stem].left + stems[stem].right) / 2);
      from = to;
      ++stem;
    }
  }
  RC_ASSERT(stem == stems.size());
  const std::vector<Box> texts = texts_of(drawing);
  const auto dates = std::count_if(texts.begin(), texts.end(), [](const Box& text) {
    return text.align == "center" && parse_iso_moment(text.text).has_value();
  });
  RC_ASSERT(dates >= (days.back() - days.front() > 65 ? 2 : 1) && dates <= 12);
  for (const auto& [day, x] : places) {
    const auto& [first, left] = places.front();
    const auto& [last, right] = places.back();
    if (first < last)
      RC_ASSERT(std::abs(left + (day - first) / (last - first) * (right - left) - x) < kPixel);
  }
}

}  // namespace
}  // namespace pear::test
