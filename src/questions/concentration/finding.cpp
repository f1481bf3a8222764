// What concentration says: headline and figures.
#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "analysis/time_keys.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/concentration/tables.hpp"

namespace pear::concentration {
namespace {

std::string percent(double share) { return fmt::format("{:.1f}%", 100 * share); }

std::string of_one(const Finding& finding, const Ranking& ranking) {
  const std::string many = finding.of_plural(), one = analysis::noun_of(finding.of_name);
  if (ranking.positive() == DecimalSum())
    return fmt::format("No {} has any {} above 0.", one, finding.figure_name);
  if (ranking.size() == 1) return fmt::format("There is 1 {}, with all of the {}.", one, finding.figure_name);
  if (ranking.members().front().units == ranking.members().back().units)
    return fmt::format("All {} bring the same {}.", counted(ranking.size(), one, many), finding.figure_name);
  const std::size_t needed = ranking.members_for(80 * Decimal::kScale);
  return fmt::format("20% of {} bring {} of {}; 80% of {} come from {} of {} ({} of {}).", many,
                     percent(ranking.share_of_largest(0.2)), finding.figure_name, finding.figure_name,
                     percent(static_cast<double>(needed) / static_cast<double>(ranking.size())), many,
                     with_thousands(static_cast<std::int64_t>(needed)),
                     with_thousands(static_cast<std::int64_t>(ranking.size())));
}

/// The most and the least concentrated of the rankings with enough members to tell.
std::string of_groups(const Finding& finding, const RankedGroups& groups) {
  constexpr std::size_t kEnough = 20;
  std::optional<std::size_t> most, least;
  const auto& rankings = groups.rankings;
  const auto share = [&](std::size_t group) { return rankings[group].share_of_largest(0.2); };
  for (std::size_t group = 0; group < rankings.size(); ++group) {
    if (rankings[group].size() < kEnough) continue;
    if (!most || share(group) > share(*most)) most = group;
    if (!least || share(group) < share(*least)) least = group;
  }
  if (!most || most == least)
    return fmt::format("No two rankings have 20 {} to compare.", finding.of_plural());
  return fmt::format("Most concentrated is {}, where 20% of {} bring {} of {}; least {} with {}.",
                     groups.label(*most), finding.of_plural(), percent(share(*most)), finding.figure_name,
                     groups.label(*least), percent(share(*least)));
}

std::string growth(const Finding& finding) {
  const auto& rankings = finding.compared.rankings;
  const double first = rankings.front().share_of_largest(0.2), last = rankings.back().share_of_largest(0.2);
  const std::string verdict = percent(first) == percent(last) ? "It stayed the same"
                              : last > first                  ? "It grew"
                                                              : "It fell";
  return fmt::format("{}: 20% of {} brought {} in {} and {} in {}.", verdict, finding.of_plural(),
                     percent(first), finding.compared.label(0), percent(last),
                     finding.compared.label(rankings.size() - 1));
}

/// The curve between the members: straight from one to the next.
double curve_at(const Ranking& ranking, double part) {
  const double place = part * static_cast<double>(ranking.size());
  const auto whole = static_cast<std::size_t>(place);
  const auto up_to = [&](std::size_t count) { return count == 0 ? 0.0 : ranking.running_share(count - 1); };
  const double rest = place - static_cast<double>(whole);
  return up_to(whole) + (rest > 0 ? rest * (up_to(std::min(whole + 1, ranking.size())) - up_to(whole)) : 0);
}

/// Points of the curves at the same shares of members.
result::Figure curves(const Finding& finding, const RankedGroups& groups,
                      const std::vector<std::size_t>& shown) {
  constexpr std::size_t kSteps = 200;
  result::Figure figure;
  figure.kind = result::Figure::Kind::curves;
  std::vector<double> parts;
  for (std::size_t i = 0; i <= kSteps; ++i) parts.push_back(static_cast<double>(i) / kSteps);
  figure.marks.columns = {result::share_column("members", "Share of members, the largest first.", parts)};
  figure.values.clear();
  for (const std::size_t group : shown) {
    std::vector<double> shares;
    for (const double part : parts) shares.push_back(curve_at(groups.rankings[group], part));
    figure.values.push_back(figure.marks.columns.size());
    figure.marks.columns.push_back(result::share_column(
        groups.is_split() ? groups.label(group) : finding.figure_name, "Running share.", std::move(shares)));
  }
  figure.label_title = fmt::format("share of {}, the largest first", finding.of_plural());
  figure.value_title = fmt::format("share of {}", finding.figure_name);
  return figure;
}

/// The 20% of members, and the 80% of the figure, on one curve.
std::vector<result::Figure::Point> crossings(const Finding& finding, const Ranking& ranking) {
  const auto all = static_cast<double>(ranking.size());
  const auto largest = static_cast<std::size_t>(std::ceil(0.2 * all - 1e-9));
  const std::size_t needed = ranking.members_for(80 * Decimal::kScale);
  const auto place = [&](std::size_t count) { return static_cast<double>(count) / all; };
  return {{place(largest), ranking.running_share(largest - 1),
           fmt::format("20% of {} bring {}", finding.of_plural(), percent(ranking.share_of_largest(0.2)))},
          {place(needed), ranking.running_share(needed - 1),
           fmt::format("80% come from {} of {}", percent(place(needed)), finding.of_plural())}};
}

}  // namespace

std::vector<std::string> headline_of(const Finding& finding) {
  std::vector<std::string> headline;
  if (finding.groups.is_split()) {
    headline.push_back(of_groups(finding, finding.groups));
  } else {
    const Ranking& all = finding.groups.rankings.front();
    headline.push_back(of_one(finding, all));
    if (all.positive() != DecimalSum() && all.size() > 1)
      headline.push_back(fmt::format(
          "Gini coefficient {:.2f} (0: all bring the same; near 1: one brings all).", all.gini()));
  }
  if (finding.compared.rankings.size() > 1)
    headline.push_back(analysis::is_time(finding.compared.keys.front())
                           ? growth(finding)
                           : of_groups(finding, finding.compared));
  return headline;
}

std::vector<result::Figure> figures_of(const Finding& finding) {
  std::vector<result::Figure> figures;
  const std::vector<std::string> headline = headline_of(finding);
  constexpr std::size_t kMostPanels = 9;
  std::vector<std::size_t> shown;
  for (std::size_t i = 0; i < std::min(kMostPanels, finding.groups.rankings.size()); ++i) shown.push_back(i);
  result::Figure main = curves(finding, finding.groups, shown);
  main.in_panels = finding.groups.is_split();
  main.title = headline.front();
  const std::size_t all = finding.groups.rankings.size();
  main.subtitle =
      fmt::format("Running share of {}, the largest {} first{}", finding.figure_name, finding.of_plural(),
                  all > kMostPanels ? fmt::format("; the first {} of {} rankings", kMostPanels, all) : "");
  if (!main.in_panels) {
    main.points = crossings(finding, finding.groups.rankings.front());
    main.subtitle += fmt::format("; {}", counted(finding.groups.rankings.front().size(),
                                                 analysis::noun_of(finding.of_name), finding.of_plural()));
  }
  figures.push_back(std::move(main));
  if (finding.compared.rankings.size() < 2) return figures;
  shown.clear();
  constexpr std::size_t kMostCurves = 8;
  for (std::size_t i = 0; i < std::min(kMostCurves, finding.compared.rankings.size()); ++i)
    shown.push_back(i);
  result::Figure compare = curves(finding, finding.compared, shown);
  compare.part = "compare";
  compare.series_in_order = analysis::is_time(finding.compared.keys.front());
  compare.title = headline.back();
  compare.subtitle = fmt::format("Running share of {}, the largest {} first, by {}", finding.figure_name,
                                 finding.of_plural(), analysis::noun_of(finding.compared.names.front()));
  figures.push_back(std::move(compare));
  return figures;
}

}  // namespace pear::concentration
