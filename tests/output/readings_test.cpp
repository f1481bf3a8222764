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

constexpr double kPixel = 1.01;

/// The number of a label: "1,500", "20%", "-0.5".
std::optional<double> number_of(const std::string& label) {
  const std::string plain = absl::StrReplaceAll(label, {{",", ""}, {"%", ""}});
  std::size_t end = 0;
  try {
    const double number = std::stod(plain, &end);
    return end == plain.size() ? std::optional(number) : std::nullopt;
  } catch (const std::exception&) {
    return std::nullopt;
  }
}

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

/// Labels that are no numbers, then series of values.
result::Figure figure_of_values(std::size_t rows, std::size_t series, bool is_positive) {
  result::Figure figure;
  TextArray labels;
  for (std::size_t row = 0; row < rows; ++row)
    labels.push_back(fmt::format("row {}", static_cast<char>('a' + row)));
  figure.marks.columns = {result::text_column("label", "", labels)};
  for (std::size_t i = 0; i < series; ++i) {
    std::vector<std::int64_t> values(rows);
    for (std::int64_t& value : values)
      value = pick(0, 9) == 0
                  ? result::kEmptyCell
                  : (is_positive || pick(0, 3) > 0 ? 1 : -1) * std::int64_t{pick(1, 9'999)} * 10'000;
    figure.marks.columns.push_back(result::integer_column(
        fmt::format("series {}", static_cast<char>('a' + i)), result::Unit::money, "", values));
  }
  return figure;
}

std::vector<std::string> names_of_series(const result::Figure& figure) {
  std::vector<std::string> names;
  for (std::size_t i = 1; i < figure.marks.columns.size(); ++i) names.push_back(figure.marks.columns[i].name);
  return names;
}

double value_at(const result::Figure& figure, std::size_t series, std::size_t row) {
  return output::mark_value(figure.marks.columns[series + 1], row);
}

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

/// A panel for each series, in which the bars are in the order of the marks and between the panel's first and
/// last label.
RC_GTEST_PROP(Readings, OfPanelsAreTheBarsOfTheirSeries, ()) {
  const auto series = static_cast<std::size_t>(pick(1, 6));
  result::Figure figure = figure_of_values(static_cast<std::size_t>(pick(2, 12)), series, false);
  figure.chart = result::SmallMultiples{"label", names_of_series(figure), result::LabelAxis::categories, ""};
  const output::Drawing drawing = output::draw(figure);
  const std::vector<Box> bars = rectangles_of(drawing), texts = texts_of(drawing);
  const auto place_of = [&](const std::string& text) {
    std::vector<double> places;
    for (const Box& each : texts)
      if (each.text == text) places.push_back((each.left + each.right) / 2);
    std::sort(places.begin(), places.end());
    return places;
  };
  const std::size_t rows = figure.marks.rows();
  const auto firsts = place_of("row a"),
             lasts = place_of(figure.marks.columns[0].text(rows - 1) == "row a"
                                  ? ""
                                  : std::string(figure.marks.columns[0].text(rows - 1)));
  RC_ASSERT(firsts.size() == series && lasts.size() == series);
  std::size_t bar = 0;
  std::vector<std::pair<double, double>> heights;  // with one scale for all panels
  for (std::size_t i = 0; i < series; ++i) {
    double before = 0;
    for (std::size_t row = 0; row < rows; ++row) {
      const double value = value_at(figure, i, row);
      if (std::isnan(value)) continue;
      const Box& box = bars.at(bar++);
      const double middle = (box.left + box.right) / 2;
      const bool is_in_a_panel = std::any_of(firsts.begin(), firsts.end(), [&](double first) {
        const auto last = std::find_if(lasts.begin(), lasts.end(), [&](double each) { return each > first; });
        return last != lasts.end() && middle > first - 60 && middle < *last + 60;
      });
      RC_ASSERT(is_in_a_panel);
      RC_ASSERT(middle > before);
      before = middle;
      heights.emplace_back(std::abs(value), box.top - box.bottom);
    }
  }
  RC_ASSERT(bar == bars.size());
  std::sort(heights.begin(), heights.end());
  for (const auto& [value, height] : heights)
    RC_ASSERT(std::abs(height - heights.back().second * value / heights.back().first) < 0.3);
}

/// Panels of more than a year label the months that begin one, each below its own bar.
TEST(Readings, PanelsOfMonthsLabelTheYears) {
  result::Figure figure;
  TextArray months;
  for (int month = 0; month < 30; ++month)
    months.push_back(fmt::format("{}-{:02}", 2023 + (month + 5) / 12, (month + 5) % 12 + 1));
  figure.marks.columns = {
      result::text_column("month", "", months),
      result::integer_column("sales", result::Unit::count, "", std::vector<std::int64_t>(30, 5))};
  figure.chart = result::SmallMultiples{"month", {"sales"}, result::LabelAxis::months, ""};
  const output::Drawing drawing = output::draw(figure);
  const std::vector<Box> bars = rectangles_of(drawing);
  std::string labelled;
  for (const Box& text : texts_of(drawing)) {
    if (!text.text.ends_with("-01")) continue;
    for (std::size_t mark = 0; mark < bars.size(); ++mark)
      if (std::abs((bars[mark].left + bars[mark].right) / 2 - (text.left + text.right) / 2) < kPixel)
        labelled += fmt::format("{} below {} ", text.text, months[mark]);
  }
  EXPECT_EQ(labelled, "2024-01 below 2024-01 2025-01 below 2025-01 ");
}

result::Figure figure_of_arrows(const std::vector<std::pair<std::string, std::string>>& links,
                                const std::string& caption) {
  TextArray from, to, captions;
  for (const auto& [a, b] : links) from.push_back(a), to.push_back(b), captions.push_back(caption);
  result::Figure figure;
  figure.marks.columns = {
      result::text_column("from", "", from), result::text_column("to", "", to),
      result::integer_column("value", result::Unit::count, "", std::vector<std::int64_t>(links.size(), 5)),
      result::text_column("caption", "", captions)};
  figure.chart = result::ArrowChart{"from", "to", "value", "caption", {}};
  return figure;
}

/// Where ways part and meet again, the ends are at the height of the middle.
TEST(Readings, ArrowsAreBalanced) {
  const auto boxes = texts_of(
      output::draw(figure_of_arrows({{"ale", "bun"}, {"ale", "cod"}, {"bun", "dill"}, {"cod", "dill"}}, "")));
  const auto middle = [&](const std::string& name) {
    const auto found =
        std::find_if(boxes.begin(), boxes.end(), [&](const Box& box) { return box.text == name; });
    return (found->bottom + found->top) / 2;
  };
  EXPECT_NEAR(middle("ale"), (middle("bun") + middle("cod")) / 2, kPixel);
  EXPECT_NEAR(middle("dill"), middle("ale"), kPixel);
  EXPECT_GT(middle("bun"), middle("cod"));
}

/// A caption that is wider than the gap has its first half above the arrow and its second half below it.
TEST(Readings, CaptionsOfArrowsAreInTwoLinesInTheirOrder) {
  const output::Drawing drawing =
      output::draw(figure_of_arrows({{"ale", "cod"}, {"ale", "dill"}, {"bun", "cod"}, {"bun", "dill"}},
                                    "120 of 480 customers, half in 31 days"));
  const double arrow = points_of(drawing).front().second;  // from ale to cod, which is level
  double above = 1'000, below = 1'000;
  for (const Box& text : texts_of(drawing)) {
    if (text.text.starts_with("120 of") && text.bottom > arrow) above = std::min(above, text.bottom - arrow);
    if (text.text.ends_with("days") && text.top < arrow) below = std::min(below, arrow - text.top);
  }
  EXPECT_LT(above, 40);
  EXPECT_LT(below, 40);
}

/// Larger values are darker, those below zero have the colour of losses; each is in its row and column.
RC_GTEST_PROP(Readings, OfHeatMapsAreDarknessAndPlace, ()) {
  const auto series = static_cast<std::size_t>(pick(1, 6));
  result::Figure figure = figure_of_values(static_cast<std::size_t>(pick(1, 12)), series, false);
  const std::vector<std::string> names = names_of_series(figure);
  figure.chart = result::HeatMap{"label", names, ""};
  const output::Drawing drawing = output::draw(figure);
  const std::vector<Box> cells = rectangles_of(drawing), texts = texts_of(drawing);
  const auto brightness = [](const Box& box) {
    const int colour = std::stoi(box.text);
    return ((colour >> 16) & 0xFF) + ((colour >> 8) & 0xFF) + (colour & 0xFF);
  };
  std::vector<std::pair<double, int>> shades;
  for (std::size_t row = 0; row < figure.marks.rows(); ++row) {
    for (std::size_t i = 0; i < series; ++i) {
      const Box& cell = cells.at(row * series + i);
      const double value = value_at(figure, i, row);
      if (i > 0) RC_ASSERT(cells[row * series + i - 1].right < cell.left);
      if (row > 0) RC_ASSERT(cells[(row - 1) * series + i].bottom > cell.top);
      if (std::isnan(value)) continue;
      RC_ASSERT((cell.text == std::to_string(output::colour::kPlum)) == (value < 0));
      if (value >= 0) shades.emplace_back(value, brightness(cell));
      const std::string shown = output::readable_cell(figure.marks.columns[i + 1], row);
      for (const Box& text : texts)
        if (text.align == "center" && text.overlaps(cell) && number_of(text.text))
          RC_ASSERT(text.text == shown);
    }
  }
  std::sort(shades.begin(), shades.end());
  for (std::size_t i = 1; i < shades.size(); ++i) RC_ASSERT(shades[i].second <= shades[i - 1].second);
  if (!shades.empty())
    RC_ASSERT(shades.back().second == brightness({0, 0, 0, 0, std::to_string(output::colour::kPine)}));
}

/// Panels share the area without covering one another.
RC_GTEST_PROP(Readings, PanelsAreApartAndWithinTheArea, ()) {
  const output::PlotArea area{40, 1240, 40, 700};
  const auto panels = output::panel_areas(area, static_cast<std::size_t>(pick(1, 12)));
  for (std::size_t a = 0; a < panels.size(); ++a) {
    RC_ASSERT(panels[a].width() > 100 && panels[a].height() > 50);
    RC_ASSERT(panels[a].left >= area.left && panels[a].right <= area.right);
    RC_ASSERT(panels[a].bottom >= area.bottom && panels[a].top <= area.top);
    for (std::size_t b = 0; b < a; ++b) {
      const Box first{panels[a].left, panels[a].bottom, panels[a].right, panels[a].top, ""},
          second{panels[b].left, panels[b].bottom, panels[b].right, panels[b].top, ""};
      RC_ASSERT(!first.overlaps(second));
      RC_ASSERT(panels[b].left < panels[a].left || panels[b].bottom > panels[a].bottom);  // in reading order
    }
  }
}

/// Months are labelled at round steps, and only where every label is a month.
TEST(Readings, MonthsAreLabelledInRoundSteps) {
  const auto labelled = [](const std::vector<std::string>& labels, double per_mark) {
    TextArray texts;
    for (const std::string& label : labels) texts.push_back(label);
    std::string shown;
    const auto with_label = output::labels_with_room(result::text_column("month", "", texts),
                                                     result::LabelAxis::months, per_mark);
    for (std::size_t i = 0; i < labels.size(); ++i)
      if (with_label[i]) shown += labels[i] + " ";
    return shown;
  };
  std::vector<std::string> months;
  for (int month = 0; month < 14; ++month)
    months.push_back(fmt::format("{}-{:02}", 2023 + (month + 10) / 12, (month + 10) % 12 + 1));
  EXPECT_EQ(labelled(months, 100).size(), 14U * 8);
  EXPECT_EQ(labelled(months, 40), "2024-01 2024-04 2024-07 2024-10 ");
  EXPECT_EQ(labelled(months, 20), "2024-01 2024-07 ");
  EXPECT_EQ(labelled(months, 8), "2024-01 ");
  months.emplace_back("other");
  EXPECT_EQ(labelled(months, 8).substr(0, 8), "2024-03 ");  // as categories: the first that fits
}

}  // namespace
}  // namespace pear::test
