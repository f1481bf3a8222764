// Where figures draw: inside the canvas, texts apart from one another, bars in proportion, for random
// figures.
#include <algorithm>
#include <cmath>
#include <map>
#include <string>
#include <tuple>
#include <vector>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "output/charts/chart.hpp"
#include "support/drawn_figure.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

result::Figure random_figure() {
  const auto rows = static_cast<std::size_t>(pick(1, pick(0, 1) == 0 ? 12 : 60));
  result::Figure figure;
  figure.title = word(120);
  figure.subtitle = word(100);
  TextArray labels;
  const int longest = pick(2, 45);
  for (std::size_t row = 0; row < rows; ++row) labels.push_back(fmt::format("{}{}", word(longest), row));
  figure.marks.columns = {result::text_column("label", "", labels)};
  static const std::vector<result::Chart> kinds = {
      result::BarChart(),  result::RankedBarChart(), result::StackedBarChart(), result::GroupedBarChart(),
      result::LineChart(), result::HeatMap(),        result::SmallMultiples()};
  result::Chart chart = kinds[static_cast<std::size_t>(pick(0, static_cast<int>(kinds.size()) - 1))];
  std::vector<std::string> series;
  const bool may_have_many = std::holds_alternative<result::HeatMap>(chart);
  for (int i = pick(1, may_have_many ? 30 : 6); i > 0; --i) {
    series.push_back(fmt::format("{} {}", word(14), i));
    figure.marks.columns.push_back(random_values(series.back(), rows));
  }
  std::visit(
      [&](auto& drawn) {
        if constexpr (requires { drawn.label; }) drawn.label = "label";
        if constexpr (requires { drawn.axis; }) drawn.axis = result::LabelAxis::categories;
        if constexpr (requires { drawn.value_title; }) drawn.value_title = word(20);
        if constexpr (requires { drawn.series; }) drawn.series = series;
        if constexpr (requires { drawn.value; }) drawn.value = series.front();
      },
      chart);
  figure.chart = std::move(chart);
  return figure;
}

RC_GTEST_PROP(FigureGeometry, EverythingIsOnTheCanvasAndTextsAreApart, ()) {
  const result::Figure figure = random_figure();
  const output::Drawing drawing = output::draw(figure);
  RC_LOG() << "kind " << figure.chart.index() << ", rows " << figure.marks.rows() << "\n";
  for (const Box& box : rectangles_of(drawing)) RC_ASSERT(is_on_canvas(box));
  const std::vector<Box> texts = texts_of(drawing);
  RC_ASSERT(!texts.empty());
  for (std::size_t a = 0; a < texts.size(); ++a) {
    RC_LOG() << texts[a].shown() << "\n";
    RC_ASSERT(is_on_canvas(texts[a]));
    for (std::size_t b = 0; b < a; ++b) {
      if (!texts[a].overlaps(texts[b])) continue;
      RC_LOG() << texts[a].shown() << " overlaps " << texts[b].shown() << "\n";
      RC_FAIL("two texts overlap");
    }
  }
}

result::TableColumn random_shares(const std::string& name, std::size_t rows) {
  std::vector<double> values(rows);
  for (double& value : values) value = pick(0, 1'000) / 1'000.0;
  return result::share_column(name, "", values);
}

/// Marks between members: from, to, a value above 0, and a text for each.
result::Table random_links(std::size_t rows) {
  std::vector<std::string> members;
  for (int i = pick(2, 14); i > 0; --i) members.push_back(fmt::format("{} {}", word(pick(2, 40)), i));
  TextArray from, to, captions;
  std::vector<std::int64_t> values;
  for (std::size_t row = 0; row < rows; ++row) {
    const auto a = static_cast<std::size_t>(pick(0, static_cast<int>(members.size()) - 1));
    const auto b = static_cast<std::size_t>(pick(1, static_cast<int>(members.size()) - 1));
    from.push_back(members[a]);
    to.push_back(members[(a + b) % members.size()]);
    captions.push_back(word(20));
    values.push_back(pick(1, 1'000));
  }
  result::Table marks;
  marks.columns = {result::text_column("from", "", from), result::text_column("to", "", to),
                   result::integer_column("value", result::Unit::count, "", values),
                   result::text_column("caption", "", captions)};
  return marks;
}

/// Members move from step to step until some go no further: nobody is lost, and nobody joins.
result::Table random_journeys() {
  std::vector<std::string> members;
  for (int i = pick(2, 8); i > 0; --i) members.push_back(fmt::format("{} {}", word(pick(2, 40)), i));
  members.emplace_back("no further");
  std::map<std::tuple<int, std::string, std::string>, std::int64_t> moves;
  const int steps = pick(1, 5);
  for (int i = pick(1, 60); i > 0; --i) {
    std::string from;
    for (int step = 1; step <= steps && from != "no further"; ++step) {
      const std::string to = members[static_cast<std::size_t>(pick(0, static_cast<int>(members.size()) - 1))];
      ++moves[{step, from, to}];
      from = to;
    }
  }
  TextArray from, to;
  std::vector<std::int64_t> values, at;
  for (const auto& [move, count] : moves) {
    at.push_back(std::get<0>(move));
    from.push_back(std::get<1>(move));
    to.push_back(std::get<2>(move));
    values.push_back(count);
  }
  result::Table marks;
  marks.columns = {result::text_column("from", "", from), result::text_column("to", "", to),
                   result::integer_column("value", result::Unit::count, "", values),
                   result::integer_column("step", result::Unit::count, "", at)};
  return marks;
}

/// Points with shares: intervals, curves, scattered points.
result::Figure random_points(int kind) {
  const auto rows = static_cast<std::size_t>(pick(1, 40));
  result::Figure figure;
  TextArray labels;
  std::vector<std::int64_t> along, days;
  for (std::size_t row = 0; row < rows; ++row) {
    labels.push_back(fmt::format("{}{}", word(pick(2, 40)), row));
    along.push_back(pick(1, 100'000));
    days.push_back(19'000 + pick(0, 1'500));
  }
  std::sort(days.begin(), days.end());
  const result::TableColumn value = random_shares("value", rows);
  std::vector<double> low, high, rising;
  for (std::size_t row = 0; row < rows; ++row) {
    low.push_back(value.fraction(row) * pick(0, 100) / 100);
    high.push_back(value.fraction(row) + (1 - value.fraction(row)) * pick(0, 100) / 100);
    rising.push_back(static_cast<double>(row + 1) / static_cast<double>(rows));
  }
  figure.marks.columns = {result::text_column("label", "", labels),
                          value,
                          result::share_column("low", "", low),
                          result::share_column("high", "", high),
                          result::integer_column("along", result::Unit::count, "", along),
                          result::share_column("share", "", rising),
                          result::share_column("curve", "", rising),
                          result::integer_column("date", result::Unit::date, "", days),
                          random_values("amount", rows)};
  const std::optional<double> reference =
      pick(0, 1) == 0 ? std::nullopt : std::optional(pick(0, 100) / 100.0);
  if (kind == 0) {
    figure.chart = result::IntervalChart{"label",  "value",   "low",     "high",        "along",
                                         "buyers", reference, "average", "repeat rate", {}};
  } else if (kind == 1) {
    figure.chart = result::CurveChart{
        "share", {"curve", "value"}, {{0.2, 0.8, "20% have 80%"}}, pick(0, 1) == 0, false, "customers",
        "sales"};
  } else if (kind == 2) {
    figure.chart = result::ScatterChart{
        "label", "along", "value", {{1, 0.4}, {100, 0.3}}, reference, "average", "orders", "share", {0}};
  } else {
    figure.chart = result::Timeline{"date", {"amount"}, "amount"};
  }
  return figure;
}

RC_GTEST_PROP(FigureGeometry, PointsLinksAndTheirTextsAreOnTheCanvas, ()) {
  const int kind = pick(0, 6);
  result::Figure figure;
  if (kind < 4) {
    figure = random_points(kind);
  } else {
    figure.marks = kind == 6 ? random_journeys() : random_links(static_cast<std::size_t>(pick(1, 25)));
    if (kind == 4) figure.chart = result::NetworkChart{"from", "to", "value"};
    if (kind == 5) figure.chart = result::ArrowChart{"from", "to", "value", "caption", {0}};
    if (kind == 6) figure.chart = result::FlowChart{"from", "to", "value", "step"};
  }
  figure.title = word(120);
  figure.subtitle = word(100);
  const output::Drawing drawing = output::draw(figure);
  RC_LOG() << "kind " << kind << ", rows " << figure.marks.rows() << "\n";
  for (const Box& box : rectangles_of(drawing)) RC_ASSERT(is_on_canvas(box));
  for (const Box& box : texts_of(drawing)) {
    RC_LOG() << box.shown() << "\n";
    RC_ASSERT(is_on_canvas(box));
  }
  for (const auto& [x, y] : points_of(drawing)) RC_ASSERT(is_on_canvas({x, y, x, y, ""}));
}

/// Names of highlighted points cover neither one another nor a highlighted point.
RC_GTEST_PROP(FigureGeometry, NamesOfPointsAreReadable, ()) {
  result::Figure figure = random_points(2);
  auto& chart = std::get<result::ScatterChart>(figure.chart);
  chart.steps.clear();
  chart.noticed.clear();
  for (std::size_t row = 0; row < figure.marks.rows(); ++row)
    if (pick(0, 2) == 0) chart.noticed.push_back(row);
  const output::Drawing drawing = output::draw(figure);
  std::vector<Box> names;
  for (const Box& text : texts_of(drawing))
    for (const std::size_t mark : chart.noticed)
      if (text.text == output::cut_to_width(figure.marks.columns[0].text(mark), 30)) names.push_back(text);
  for (std::size_t a = 0; a < names.size(); ++a) {
    for (std::size_t b = 0; b < a; ++b)
      if (names[a].text != names[b].text) RC_ASSERT(!names[a].overlaps(names[b]));
    for (const Box& box : rectangles_of(drawing))
      if (box.text == std::to_string(output::colour::kOchre)) RC_ASSERT(!names[a].overlaps(box));
  }
}

/// The bars of one series are as long as their values, from zero.
RC_GTEST_PROP(FigureGeometry, BarsAreInProportion, ()) {
  result::Figure figure;
  const auto rows = static_cast<std::size_t>(pick(2, 25));
  std::vector<std::int64_t> values(rows);
  TextArray labels;
  for (std::size_t row = 0; row < rows; ++row) {
    values[row] = pick(1, 1'000) * 10'000;
    labels.push_back(fmt::format("label {}", row));
  }
  figure.marks.columns = {result::text_column("label", "", labels),
                          result::integer_column("value", result::Unit::money, "", values)};
  const bool is_lying = pick(0, 1) == 0;
  if (is_lying)
    figure.chart = result::RankedBarChart{"label", "value", {}, {}, {}, {}, {}, {}};
  else
    figure.chart = result::BarChart{"label", "value", result::LabelAxis::categories, {}, {}, {}, {}, {}};
  const std::vector<Box> bars = rectangles_of(output::draw(figure));
  RC_ASSERT(bars.size() == rows);
  const auto length = [&](std::size_t bar) {
    return is_lying ? bars[bar].right - bars[bar].left : bars[bar].top - bars[bar].bottom;
  };
  const auto largest =
      static_cast<std::size_t>(std::max_element(values.begin(), values.end()) - values.begin());
  for (std::size_t bar = 0; bar < rows; ++bar) {
    const double wanted =
        length(largest) * static_cast<double>(values[bar]) / static_cast<double>(values[largest]);
    RC_ASSERT(std::abs(length(bar) - wanted) < 1);
  }
}

}  // namespace
}  // namespace pear::test
