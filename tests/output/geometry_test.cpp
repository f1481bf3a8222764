// Where figures draw: inside the canvas, texts apart from one another, bars in proportion, for random
// figures.
#include <algorithm>
#include <cmath>
#include <map>
#include <regex>
#include <sstream>
#include <string>
#include <vector>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "output/charts/chart.hpp"
#include "output/tables/readable.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

struct Box {
  double left = 0, bottom = 0, right = 0, top = 0;
  std::string text;

  [[nodiscard]] bool overlaps(const Box& other) const {
    return left < other.right && other.left < right && bottom < other.top && other.bottom < top;
  }
  [[nodiscard]] std::string shown() const {
    return fmt::format("\"{}\" at {:.0f} to {:.0f}, {:.0f} to {:.0f}", text, left, right, bottom, top);
  }
};

std::vector<std::vector<std::string>> rows_of(const std::string& tsv) {
  std::vector<std::vector<std::string>> rows;
  std::istringstream lines(tsv);
  for (std::string line; std::getline(lines, line);) {
    std::istringstream fields(line);
    rows.emplace_back();
    for (std::string field; std::getline(fields, field, '\t');) rows.back().push_back(field);
  }
  return rows;
}

/// All texts of a drawing, a little smaller than they are: letters differ in width.
std::vector<Box> texts_of(const output::Drawing& drawing) {
  constexpr double kPart = 0.75, kLetter = output::Drawing::kCharacter / 20;  // at 20 pixels
  const auto files = drawing.files();
  const std::string script = drawing.script(output::FigureFormat::svg, "f.svg");
  static const std::regex style(
      "'(texts\\d+\\.tsv)' using 1:2:3 notitle with labels (\\w+) font 'Lato[^,]*,(\\d+)'");
  std::vector<Box> boxes;
  for (std::sregex_iterator each(script.begin(), script.end(), style), end; each != end; ++each) {
    const std::string align = (*each)[2];
    const double size = std::stod((*each)[3]);
    for (const auto& row : rows_of(files.at((*each)[1]))) {
      const double x = std::stod(row[0]), y = std::stod(row[1]);
      const double width = kLetter * size * static_cast<double>(output::display_width(row[2]));
      const double left = align == "left" ? x : align == "center" ? x - width / 2 : x - width;
      const double middle = left + width / 2;
      boxes.push_back({middle - kPart * width / 2, y - kPart * size / 2, middle + kPart * width / 2,
                       y + kPart * size / 2, row[2]});
    }
  }
  return boxes;
}

std::vector<Box> rectangles_of(const output::Drawing& drawing) {
  const auto files = drawing.files();
  std::vector<Box> boxes;
  if (!files.contains("rectangles.tsv")) return boxes;
  for (const auto& row : rows_of(files.at("rectangles.tsv")))
    boxes.push_back({std::stod(row[2]), std::stod(row[4]), std::stod(row[3]), std::stod(row[5]), row[6]});
  return boxes;
}

bool is_on_canvas(const Box& box) {
  return box.left >= -1 && box.right <= output::Drawing::kWidth + 1 && box.bottom >= -1 &&
         box.top <= output::Drawing::kHeight + 1;
}

std::string word(int longest) {
  std::string text;
  for (int i = pick(1, longest); i > 0; --i)
    text += static_cast<char>(pick(0, 5) == 0 ? ' ' : 'a' + pick(0, 25));
  return text;
}

result::TableColumn random_values(const std::string& name, std::size_t rows) {
  const int magnitude = pick(0, 8);
  std::vector<std::int64_t> values(rows);
  for (std::int64_t& value : values)
    value =
        pick(0, 9) == 0
            ? result::kEmptyCell
            : static_cast<std::int64_t>((pick(0, 5) == 0 ? -1 : 1) * pick(0, 999) * std::pow(10, magnitude));
  return result::integer_column(name, result::Unit::money, "", values);
}

result::Figure random_figure() {
  const auto rows = static_cast<std::size_t>(pick(1, pick(0, 1) == 0 ? 12 : 60));
  result::Figure figure;
  figure.title = word(120);
  figure.subtitle = word(100);
  TextArray labels;
  const int longest = pick(2, 45);
  for (std::size_t row = 0; row < rows; ++row) labels.push_back(fmt::format("{}{}", word(longest), row));
  figure.marks.columns = {result::text_column("label", "", labels)};
  std::vector<std::string> series;
  for (int i = pick(1, 6); i > 0; --i) {
    series.push_back(fmt::format("{} {}", word(14), i));
    figure.marks.columns.push_back(random_values(series.back(), rows));
  }
  static const std::vector<result::Chart> kinds = {
      result::BarChart(),  result::RankedBarChart(), result::StackedBarChart(), result::GroupedBarChart(),
      result::LineChart(), result::HeatMap(),        result::SmallMultiples()};
  result::Chart chart = kinds[static_cast<std::size_t>(pick(0, static_cast<int>(kinds.size()) - 1))];
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
