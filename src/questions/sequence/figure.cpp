#include "questions/sequence/figure.hpp"

#include <algorithm>
#include <cmath>
#include <set>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/sequence/finding.hpp"

namespace pear::sequence {
namespace {

std::string of_whom(const Counts& counts) { return counted(counts.histories.buyers, "customer"); }

std::string_view dark(const Counts& counts) {
  return counts.tests_directions ? "dark: the direction is significant"
                                 : "dark: more customers than in the other order";
}

/// Pairs as arrows, dark where they are significant.
result::Figure arrows_of(const Counts& counts, const std::vector<const Transition*>& pairs) {
  using Row = const Transition*;
  result::Figure figure;
  analysis::TableBuilder builder(figure.marks, pairs);
  builder.text("earlier", "The one bought first.",
               [&](Row pair) { return counts.names().title(pair->earlier); });
  builder.count("customers", "Customers who bought both in this order.", [](Row pair) { return pair->both; });
  builder.text("later", "The one bought afterwards.",
               [&](Row pair) { return counts.names().title(pair->later); });
  builder.text("caption", "Share who bought the later one, and the median of their days.", [&](Row pair) {
    return fmt::format("{:.0f}%, {}", 100 * counts.rate(*pair), analysis::days_text(pair->days_median));
  });
  result::ArrowChart chart{"earlier", "later", "customers", "caption", {}};
  for (std::size_t i = 0; i < pairs.size(); ++i)
    if (counts.is_found(*pairs[i])) chart.noticed.push_back(i);
  figure.chart = std::move(chart);
  return figure;
}

/// Whether other steps lead from the beginning of this one to its end.
bool is_shortcut(const std::vector<const Transition*>& steps, const Transition* step) {
  std::set<std::uint32_t> reached = {step->earlier};
  for (std::size_t round = 0; round < steps.size(); ++round)
    for (const Transition* other : steps)
      if (other != step && reached.contains(other->earlier)) reached.insert(other->later);
  return reached.contains(step->later);
}

/// The most significant steps, no more than a few from one item. Where customers go from A to B and from B to
/// C, that they also go from A to C says nothing new.
std::vector<const Transition*> most_significant_steps(const Counts& counts) {
  constexpr std::size_t kMost = 8, kMostFromOne = 4;
  std::vector<const Transition*> steps;
  for (const Transition* pair : counts.pairs) {
    if (steps.size() == kMost || !counts.is_found(*pair)) break;
    const auto from_the_same = std::count_if(
        steps.begin(), steps.end(), [&](const Transition* other) { return other->earlier == pair->earlier; });
    if (pair->earlier == pair->later || from_the_same >= std::ptrdiff_t{kMostFromOne}) continue;
    steps.push_back(pair);
    for (std::size_t i = steps.size(); i-- > 1;)  // the first one is that of the title
      if (is_shortcut(steps, steps[i])) steps.erase(steps.begin() + static_cast<std::ptrdiff_t>(i));
  }
  return steps;
}

result::Figure strongest_arrows(const Counts& counts) {
  result::Figure figure = arrows_of(counts, most_significant_steps(counts));
  figure.subtitle =
      fmt::format("{}: share who buy the later one, and median days; {}",
                  counts.tests_directions
                      ? "The most significant steps, adjusted for when each product is usually bought first"
                      : "The steps with the highest rate ratio",
                  of_whom(counts));
  return figure;
}

/// What comes before one item, and what after: each other item on the side where it is more frequent.
result::Figure around_one(const Counts& counts) {
  constexpr std::size_t kMost = 6;
  std::vector<const Transition*> pairs;
  for (const bool after : {false, true}) {
    std::size_t shown = 0;
    for (const Transition* pair : counts.pairs) {
      if (pair->earlier == pair->later || (after ? pair->earlier : pair->later) != counts.about ||
          pair->both < counts.least || pair->both < pair->reverse || (pair->both == pair->reverse && !after))
        continue;
      if (shown++ == kMost) break;
      pairs.push_back(pair);
    }
  }
  result::Figure figure = arrows_of(counts, pairs);
  figure.subtitle = fmt::format(
      "Before and after {}: share of customers who buy the later product, and median days; {}; {}",
      counts.names().title(*counts.about), dark(counts), of_whom(counts));
  return figure;
}

/// The share having bought, day by day, for the pairs of the headline.
result::Figure timing_curves(const Counts& counts) {
  constexpr std::int32_t kLeastDays = 60, kMostDays = 365;
  std::int32_t last = kLeastDays;
  for (const auto& [pair, curve] : counts.timing)
    last = std::max(last, std::min(kMostDays, 2 * pair->days_p75));
  const analysis::NumberedRows days{static_cast<std::size_t>(last) + 1};
  result::Figure figure;
  figure.part = "timing";
  figure.subtitle = fmt::format("Kaplan-Meier estimate: customers count as long as they were observed; {}",
                                of_whom(counts));
  analysis::TableBuilder builder(figure.marks, days);
  builder.text("day", "Days after the first.", [](std::size_t day) { return std::to_string(day); });
  result::LineChart chart;
  chart.label = "day";
  chart.axis = result::LabelAxis::days;
  chart.label_title = "days after the first of the two";
  chart.value_title = "share that has bought the other";
  for (const auto& [pair, curve] : counts.timing) {
    std::vector<double> shares;
    for (std::size_t day = 0; day < days.size(); ++day)
      shares.push_back(curve[std::min(day, curve.size() - 1)].share);
    chart.series.push_back(
        analysis::add_series(figure.marks,
                             fmt::format("{} > {}", expression::label_text(counts.key, pair->earlier),
                                         counts.names().title(pair->later)),
                             result::share_column("", "Share that has bought it.", std::move(shares))));
  }
  figure.chart = std::move(chart);
  return figure;
}

std::string step_title(const Counts& counts, const Transition& pair) {
  return fmt::format("After {}, {} of customers buy {}, half of them {} later",
                     counts.names().title(pair.earlier),
                     analysis::per_cent(pair.both, counts.histories.counts[pair.earlier]),
                     counts.names().title(pair.later), quartiles_text(pair));
}

std::string timing_sentence(const Counts& counts, const Transition& pair) {
  const double within = pair.rates[1];
  const std::string what = pair.earlier == pair.later ? counts.names().title(pair.later) + " again"
                                                      : counts.names().title(pair.later);
  if (std::isnan(within))
    return fmt::format("After {}, {} of customers buy {}", counts.names().title(pair.earlier),
                       analysis::per_cent(pair.both, counts.histories.counts[pair.earlier]), what);
  return fmt::format("Within {} days after {}, {:.0f}% of customers have bought {}", kRateDays[1],
                     counts.names().title(pair.earlier), 100 * within, what);
}

}  // namespace

std::vector<result::Figure> figures_of(const Counts& counts) {
  if (counts.pairs.empty()) return {};
  std::vector<result::Figure> figures;
  result::Figure arrows = counts.about ? around_one(counts) : strongest_arrows(counts);
  if (arrows.marks.rows() > 0) {
    arrows.title = step_title(counts, *headline_pairs(counts).front());
    figures.push_back(std::move(arrows));
  }
  result::Figure curves = timing_curves(counts);
  curves.title = timing_sentence(counts, *headline_pairs(counts).front());
  figures.push_back(std::move(curves));
  return figures;
}

}  // namespace pear::sequence
