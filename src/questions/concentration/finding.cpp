#include "questions/concentration/finding.hpp"

#include <boost/math/distributions/normal.hpp>
#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "analysis/time_keys.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::concentration {
namespace {

std::string of_one(const Counts& counts, const Ranking& ranking) {
  const std::string many = counts.of_plural(), one = analysis::noun_of(counts.of_name);
  if (ranking.positive() == DecimalSum())
    return fmt::format("No {} has {} above 0.", one, counts.figure_name);
  if (ranking.size() == 1)
    return fmt::format("There is only 1 {}, with all of the {}.", one, counts.figure_name);
  if (ranking.members().front().units == ranking.members().back().units)
    return fmt::format("All {} have the same {}.", counted(ranking.size(), one, many), counts.figure_name);
  const std::size_t needed = ranking.members_for(80 * Decimal::kScale);
  return fmt::format("20% of {} account for {} of {}; 80% of {} come from {} of {} ({} of {}).", many,
                     analysis::per_cent(ranking.share_of_largest(0.2)), counts.figure_name,
                     counts.figure_name,
                     analysis::per_cent(static_cast<double>(needed) / static_cast<double>(ranking.size())),
                     many, with_thousands(static_cast<std::int64_t>(needed)),
                     with_thousands(static_cast<std::int64_t>(ranking.size())));
}

/// Whether the shares of the largest 20% of two rankings, the extremes of so many, differ significantly:
/// normal approximation, as if they had no member in common, adjusted for the number of pairs (Bonferroni).
bool differ(const Ranking& a, const Ranking& b, std::size_t of) {
  const double error = std::hypot(a.standard_error_of_largest(0.2), b.standard_error_of_largest(0.2));
  const double pairs = static_cast<double>(of) * static_cast<double>(of - 1) / 2;
  const double z = boost::math::quantile(boost::math::complement(boost::math::normal(), 0.025 / pairs));
  return std::abs(a.share_of_largest(0.2) - b.share_of_largest(0.2)) > z * error;
}

/// The most and the least concentrated rankings, of those with enough members.
std::string of_groups(const Counts& counts, const RankedGroups& groups) {
  constexpr std::size_t kEnough = 20;
  std::optional<std::size_t> most, least;
  std::size_t compared = 0;
  const auto& rankings = groups.rankings;
  const auto share = [&](std::size_t group) { return rankings[group].share_of_largest(0.2); };
  for (std::size_t group = 0; group < rankings.size(); ++group) {
    if (rankings[group].size() < kEnough || !rankings[group].has_total()) continue;
    ++compared;
    if (!most || share(group) > share(*most)) most = group;
    if (!least || share(group) < share(*least)) least = group;
  }
  if (!most || most == least)
    return fmt::format("No two rankings have at least 20 {} to compare.", counts.of_plural());
  if (!differ(rankings[*most], rankings[*least], compared))
    return fmt::format("Concentration does not differ significantly: 20% of {} account for {} to {} of {}.",
                       counts.of_plural(), analysis::per_cent(share(*least)),
                       analysis::per_cent(share(*most)), counts.figure_name);
  return fmt::format("Most concentrated: {}, where 20% of {} account for {} of {}; least: {} with {}.",
                     groups.label(*most), counts.of_plural(), analysis::per_cent(share(*most)),
                     counts.figure_name, groups.label(*least), analysis::per_cent(share(*least)));
}

std::string growth(const Counts& counts) {
  const auto& rankings = counts.compared.rankings;
  const double first = rankings.front().share_of_largest(0.2), last = rankings.back().share_of_largest(0.2);
  if (!rankings.front().has_total() || !rankings.back().has_total())
    return fmt::format("Concentration cannot be compared: no {} has {} above 0 in {}.",
                       analysis::noun_of(counts.of_name), counts.figure_name,
                       counts.compared.label(rankings.front().has_total() ? rankings.size() - 1 : 0));
  const std::string verdict = !differ(rankings.front(), rankings.back(), 2)
                                  ? "Concentration did not change significantly"
                              : last > first ? "Concentration rose"
                                             : "Concentration fell";
  return fmt::format("{}: 20% of {} accounted for {} in {} and {} in {}.", verdict, counts.of_plural(),
                     analysis::per_cent(first), counts.compared.label(0), analysis::per_cent(last),
                     counts.compared.label(rankings.size() - 1));
}

}  // namespace

std::vector<std::string> headline_of(const Counts& counts) {
  std::vector<std::string> headline;
  if (counts.groups.is_split()) {
    headline.push_back(of_groups(counts, counts.groups));
  } else {
    const Ranking& all = counts.groups.rankings.front();
    headline.push_back(of_one(counts, all));
    if (all.positive() != DecimalSum() && all.size() > 1)
      headline.push_back(fmt::format(
          "Gini coefficient {:.2f} (0: all have the same; near 1: one has everything).", all.gini()));
  }
  if (counts.compared.rankings.size() > 1)
    headline.push_back(analysis::is_time(counts.compared.keys.front()) ? growth(counts)
                                                                       : of_groups(counts, counts.compared));
  return headline;
}

std::vector<result::Stake> stakes_of(const Counts& counts) {
  if (counts.groups.is_split() || counts.unit != result::Unit::money) return {};
  const auto total = counts.groups.rankings.front().positive().total();
  if (!total || total->units() <= 0) return {};
  return {{0, total->units() / 100 * 80}};
}

result::Definitions definitions_of(const Counts& counts) {
  const std::string many = counts.of_plural();
  std::string ends;
  for (const std::int64_t end : counts.options.classes)
    ends += (ends.empty() ? "" : ", ") + Decimal::from_units(end).to_text() + "%";
  return {
      {counts.figure_name, counts.options.count->text},
      {"share", fmt::format("of the sum of all {} above 0", counts.figure_name)},
      {"20%", fmt::format("of the {}, rounded up to a whole number", many)},
      {"classes",
       fmt::format("A: the largest, up to the one with which the cumulative share reaches {}; then B and C",
                   ends)},
      {"Gini coefficient",
       fmt::format("half of the mean difference between two {}, divided by their mean", many)}};
}

void add_notes(const Counts& counts, result::Result& result) {
  std::uint64_t members = 0;
  DecimalSum negative;
  for (const Ranking& ranking : counts.groups.rankings) {
    members += ranking.not_positive();
    negative.add(ranking.negative());
  }
  if (members == 0) return;
  const auto total = negative.total();
  result.notes.push_back(fmt::format(
      "{} at or below 0, with {} {} in total: last in rank, and 0 in all shares, classes and the Gini "
      "coefficient.",
      counted(members, analysis::noun_of(counts.of_name) + " is", counts.of_plural() + " are"),
      counts.figure_name, total ? with_thousands(*total) : fmt::format("{:.0f}", negative.approximate())));
}

void add_checks(const Counts& counts, result::Result& result) {
  bool ends_at_all = true, all_have_total = true;
  DecimalSum sum;
  for (const Ranking& ranking : counts.groups.rankings) {
    ends_at_all =
        ends_at_all && (!ranking.has_total() || ranking.cumulative_share(ranking.size() - 1) == 1.0);
    all_have_total = all_have_total && ranking.has_total();
    sum.add(ranking.positive());
    sum.add(ranking.negative());
  }
  const std::string where = all_have_total             ? "in every ranking"
                            : counts.groups.is_split() ? "in every ranking with figures above 0"
                                                       : "if any figure is above 0";
  result.checks.push_back(
      {"cumulative shares end at 100%" + (all_have_total && !counts.groups.is_split() ? "" : " " + where),
       ends_at_all});
  if (!counts.whole) return;
  const Decimal whole = Decimal::from_units(*counts.whole);
  result.checks.push_back({fmt::format("all rows add up to the total {} of {}", counts.figure_name,
                                       with_thousands(whole, counts.unit == result::Unit::count ? 0 : 2)),
                           sum.total() == whole});
}

}  // namespace pear::concentration
