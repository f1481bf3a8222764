// What a reader reads off panels, arrows and heat maps.
#include <algorithm>
#include <cmath>
#include <string>
#include <utility>
#include <vector>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "output/charts/plot.hpp"
#include "support/drawn_figure.hpp"

namespace pear::test {
namespace {

/// A panel for each series, in which the bars are in the order of the marks and between the panel's first and
/// last label.
RC_GTEST_PROP(PanelReadings, OfPanelsAreTheBarsOfTheirSeries, ()) {
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
TEST(PanelReadings, PanelsOfMonthsLabelTheYears) {
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
TEST(PanelReadings, ArrowsAreBalanced) {
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
TEST(PanelReadings, CaptionsOfArrowsAreInTwoLinesInTheirOrder) {
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
RC_GTEST_PROP(PanelReadings, OfHeatMapsAreDarknessAndPlace, ()) {
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
RC_GTEST_PROP(PanelReadings, PanelsAreApartAndWithinTheArea, ()) {
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
TEST(PanelReadings, MonthsAreLabelledInRoundSteps) {
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
