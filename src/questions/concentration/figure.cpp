#include "questions/concentration/figure.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/time_keys.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/concentration/finding.hpp"

namespace pear::concentration {
namespace {

/// The curve between the members: straight from one to the next.
double curve_at(const Ranking& ranking, double part) {
  const double place = part * static_cast<double>(ranking.size());
  const auto whole = static_cast<std::size_t>(place);
  const auto up_to = [&](std::size_t count) {
    return count == 0 ? 0.0 : ranking.cumulative_share(count - 1);
  };
  const double rest = place - static_cast<double>(whole);
  return up_to(whole) + (rest > 0 ? rest * (up_to(std::min(whole + 1, ranking.size())) - up_to(whole)) : 0);
}

/// The curves of the first rankings, by points at the same shares of members.
result::CurveChart curves(const Counts& counts, const RankedGroups& groups, std::size_t most,
                          result::Table& marks) {
  constexpr std::size_t kSteps = 200;
  const analysis::NumberedRows steps{kSteps + 1};
  const auto part = [](std::size_t step) { return static_cast<double>(step) / kSteps; };
  analysis::TableBuilder builder(marks, steps);
  builder.share("members", "Share of members, the largest first.", part);
  result::CurveChart chart;
  chart.share = "members";
  for (std::size_t group = 0; group < std::min(most, groups.rankings.size()); ++group) {
    if (!groups.rankings[group].has_total()) continue;
    std::vector<double> shares;
    for (std::size_t step = 0; step <= kSteps; ++step)
      shares.push_back(curve_at(groups.rankings[group], part(step)));
    chart.series.push_back(
        analysis::add_series(marks, groups.is_split() ? groups.label(group) : counts.figure_name,
                             result::share_column("", "Cumulative share.", std::move(shares))));
  }
  chart.label_title = fmt::format("share of {}, the largest first", counts.of_plural());
  chart.value_title = fmt::format("share of {}", counts.figure_name);
  return chart;
}

/// The 20% of members, and the 80% of the figure, on one curve.
std::vector<result::CurveChart::Point> crossings(const Counts& counts, const Ranking& ranking) {
  const auto all = static_cast<double>(ranking.size());
  const auto largest = static_cast<std::size_t>(std::ceil(0.2 * all - 1e-9));
  const std::size_t needed = ranking.members_for(80 * Decimal::kScale);
  const auto place = [&](std::size_t count) { return static_cast<double>(count) / all; };
  return {{place(largest), ranking.cumulative_share(largest - 1),
           fmt::format("20% of {} account for {}", counts.of_plural(),
                       analysis::per_cent(ranking.share_of_largest(0.2)))},
          {place(needed), ranking.cumulative_share(needed - 1),
           fmt::format("80% come from {} of {}", analysis::per_cent(place(needed)), counts.of_plural())}};
}

result::Figure main_figure(const Counts& counts) {
  constexpr std::size_t kMostPanels = 9;
  const std::size_t all = counts.groups.rankings.size();
  result::Figure figure;
  result::CurveChart chart = curves(counts, counts.groups, kMostPanels, figure.marks);
  chart.in_panels = counts.groups.is_split();
  figure.title = headline_of(counts).front();
  figure.subtitle =
      fmt::format("Cumulative share of {}, the largest {} first{}", counts.figure_name, counts.of_plural(),
                  all > kMostPanels ? fmt::format("; the first {} of {} rankings", kMostPanels, all) : "");
  if (!chart.in_panels) {
    const Ranking& ranking = counts.groups.rankings.front();
    chart.points = crossings(counts, ranking);
    figure.subtitle +=
        fmt::format("; {}", counted(ranking.size(), analysis::noun_of(counts.of_name), counts.of_plural()));
  }
  figure.chart = std::move(chart);
  return figure;
}

result::Figure compare_figure(const Counts& counts) {
  constexpr std::size_t kMostCurves = 8;
  result::Figure figure;
  result::CurveChart chart = curves(counts, counts.compared, kMostCurves, figure.marks);
  chart.series_in_order = analysis::is_time(counts.compared.keys.front());
  figure.part = "compare";
  figure.title = headline_of(counts).back();
  figure.subtitle = fmt::format("Cumulative share of {}, the largest {} first, by {}", counts.figure_name,
                                counts.of_plural(), analysis::noun_of(counts.compared.names.front()));
  figure.chart = std::move(chart);
  return figure;
}

}  // namespace

std::vector<result::Figure> figures_of(const Counts& counts) {
  const auto any_total = [](const RankedGroups& groups) {
    return std::any_of(groups.rankings.begin(), groups.rankings.end(),
                       [](const Ranking& ranking) { return ranking.has_total(); });
  };
  if (!any_total(counts.groups)) return {};
  std::vector<result::Figure> figures = {main_figure(counts)};
  if (counts.compared.rankings.size() > 1 && any_total(counts.compared))
    figures.push_back(compare_figure(counts));
  return figures;
}

}  // namespace pear::concentration
