#include "questions/distinct/figure.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/figure_cutoff.hpp"
#include "analysis/tables/table_builder.hpp"
#include "analysis/time_keys.hpp"
#include "base/text.hpp"
#include "questions/distinct/finding.hpp"

namespace pear::distinct {
namespace {

bool shows_times(const Counts& counts) {
  return counts.keys.per.size() == 1 && analysis::is_time(counts.keys.per.front());
}

result::Chart top_chart(const Counts& counts, bool times) {
  const std::string value_title = fmt::format("distinct {}", counts.counted_noun(2));
  if (!times) {
    result::RankedBarChart chart;
    chart.label = "label";
    chart.value = "distinct";
    chart.value_title = value_title;
    return chart;
  }
  const std::string& source = counts.keys.per.front().source;
  result::BarChart chart;
  chart.label = "label";
  chart.value = "distinct";
  if (source == "month" || source == "first_month") chart.axis = result::LabelAxis::months;
  chart.value_title = value_title;
  return chart;
}

result::Figure top_figure(const Counts& counts) {
  constexpr std::size_t kMostBars = 20;
  const bool times = shows_times(counts);
  const std::size_t shown = times ? counts.rows.size() : std::min(counts.rows.size(), kMostBars);
  const std::vector<std::uint32_t> cells(counts.rows.begin(),
                                         counts.rows.begin() + static_cast<std::ptrdiff_t>(shown));
  const std::string all = counted(counts.rows.size(), counts.per_noun(), counts.per_plural());
  result::Figure figure;
  figure.subtitle =
      fmt::format("Distinct {} of each {}; {}", counts.counted_noun(2), counts.per_noun(),
                  shown < counts.rows.size() ? fmt::format("the {} with most of {}", shown, all) : all);
  analysis::TableBuilder builder(figure.marks, cells);
  builder.text("label", "The value of --per.", [&](std::uint32_t cell) { return counts.label(cell); });
  builder.count("distinct", "Distinct values.",
                [&](std::uint32_t cell) { return counts.facts[cell].distinct; });
  figure.chart = top_chart(counts, times);
  return figure;
}

/// A number of distinct values, and the share of cells that have it.
struct NumberMark {
  std::string label;
  double share = 0;
};

result::Figure distribution_figure(const Counts& counts) {
  constexpr std::size_t kMostBars = 30;
  const std::vector<std::uint64_t> cells = cells_by_number(counts.facts);
  const std::size_t first = cells.front() > 0 ? 0 : 1;
  const analysis::FigureCutoff cutoff =
      analysis::cutoff_for({cells.begin() + static_cast<std::ptrdiff_t>(first), cells.end()}, kMostBars);
  std::vector<NumberMark> marks;
  double rest = 1;
  for (std::size_t i = first; i < first + cutoff.shown; ++i) {
    marks.push_back(
        {std::to_string(i), static_cast<double>(cells[i]) / static_cast<double>(counts.rows.size())});
    rest -= marks.back().share;
  }
  if (cutoff.gathers) marks.push_back({fmt::format("{} or more", first + cutoff.shown), rest});
  result::Figure figure;
  figure.subtitle =
      fmt::format("Share of {} by the number of distinct {}; {}", counts.per_plural(), counts.counted_noun(2),
                  counted(counts.rows.size(), counts.per_noun(), counts.per_plural()));
  analysis::TableBuilder builder(figure.marks, marks);
  builder.text("distinct", "Number of distinct values.", [](const NumberMark& mark) { return mark.label; });
  builder.share("share", "Share of all.", [](const NumberMark& mark) { return mark.share; });
  result::BarChart chart;
  chart.label = "distinct";
  chart.value = "share";
  if (cutoff.gathers) chart.other = cutoff.shown;
  chart.label_title = fmt::format("distinct {}", counts.counted_noun(2));
  chart.value_title = fmt::format("share of {}", counts.per_plural());
  figure.chart = std::move(chart);
  return figure;
}

}  // namespace

std::vector<result::Figure> figures_of(const Counts& counts) {
  if (counts.rows.size() < 2) return {};
  constexpr std::size_t kFew = 100;
  const bool of_customers = counts.keys.cells_are_of_customers();
  result::Figure figure = !of_customers && (counts.rows.size() <= kFew || shows_times(counts))
                              ? top_figure(counts)
                              : distribution_figure(counts);
  figure.title = headline_of(counts).front();
  return {figure};
}

}  // namespace pear::distinct
