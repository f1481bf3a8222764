// What sequence says: headline and figures.
#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/sequence/finding.hpp"

namespace pear::sequence {
namespace {

/// "52 to 86 days", or "10 days" where both are the same.
std::string quartiles_told(const Transition& pair) {
  if (pair.days_p25 == pair.days_p75) return analysis::days_text(pair.days_p75);
  return fmt::format("{} to {}", pair.days_p25, analysis::days_text(pair.days_p75));
}

std::string pair_sentence(const Finding& finding, const Transition& pair) {
  const std::uint32_t customers = finding.histories.counts[pair.earlier];
  if (pair.earlier == pair.later)
    return fmt::format("Most often bought again: {}, by {} of its {} customers ({}), half of them within {}.",
                       finding.names().title(pair.earlier), analysis::number(pair.both),
                       analysis::number(customers), analysis::per_cent(pair.both, customers),
                       analysis::days_text(pair.days_median));
  return fmt::format(
      "{} leads to {}: {} of {} customers ({}) buy it afterwards, half of these {} after, {:.0f} times as "
      "often a day as usual.",
      finding.names().title(pair.earlier), finding.names().title(pair.later), analysis::number(pair.both),
      analysis::number(customers), analysis::per_cent(pair.both, customers), quartiles_told(pair),
      pair.rate_ratio);
}

const ListedSequence* longest_found(const Finding& finding) {
  for (const ListedSequence& sequence : finding.sequences)
    if (sequence.is_found && mining::steps_of(sequence.items) > 2) return &sequence;
  return nullptr;
}

std::string chain_sentence(const Finding& finding, const ListedSequence& sequence) {
  std::string told;
  std::size_t step = 0;
  for (const mining::StepItem item : sequence.items) {
    const bool begins = item.begins_step();
    if (!told.empty()) told += begins ? ", then " : " with ";
    told += finding.names().title(item.code());
    if (begins && step++ > 0)
      told += fmt::format(" ({} later)", analysis::days_text(sequence.step_days[step - 2]));
  }
  return fmt::format(
      "In {} steps: {}; {} customers went all the way, {} of those who had come to the last but one.",
      mining::steps_of(sequence.items), told, analysis::number(sequence.facts.customers),
      analysis::per_cent(sequence.facts.customers, sequence.given));
}

std::string nothing_sentence(const Finding& finding) {
  const std::string tested = counted(finding.next.directions_tested, "pair");
  return fmt::format("No {} leads to another more often than chance would have it ({} tested).", finding.item,
                     tested);
}

/// Whether a pair lies on this side of the item asked about.
bool is_beside(const Finding& finding, const Transition& pair, bool after) {
  return (after ? pair.earlier : pair.later) == finding.about;
}

/// The surest pair on one side of the item asked about; where none is sure, the commonest.
std::string side_sentence(const Finding& finding, bool after) {
  const Transition* commonest = nullptr;
  for (const Transition* pair : finding.pairs) {
    if (!is_beside(finding, *pair, after)) continue;
    if (finding.is_found(*pair)) return pair_sentence(finding, *pair);
    if (pair->earlier != pair->later && (commonest == nullptr || pair->both > commonest->both))
      commonest = pair;
  }
  const std::string what = finding.names().title(*finding.about);
  if (commonest == nullptr)
    return fmt::format("Nobody bought anything {} {}.", after ? "after" : "before", what);
  const std::uint32_t customers = finding.histories.counts[commonest->earlier];
  return fmt::format(
      "Nothing comes {} {} more often than the other way round; commonest is {}: {} of {} customers ({}), "
      "half of these {} after.",
      after ? "after" : "before", what, finding.names().title(after ? commonest->later : commonest->earlier),
      analysis::number(commonest->both), analysis::number(customers),
      analysis::per_cent(commonest->both, customers), quartiles_told(*commonest));
}

std::string of_whom(const Finding& finding) { return counted(finding.histories.buyers, "customer"); }

constexpr std::string_view kDark = "dark where the direction is no chance";

/// Columns of arrows: from, customers, to, what stands on each.
struct Arrows {
  TextArray from, to, captions;
  std::vector<std::int64_t> customers;
  std::vector<std::size_t> found;

  void add(const Finding& finding, const Transition& pair) {
    if (finding.is_found(pair)) found.push_back(customers.size());
    from.push_back(finding.names().title(pair.earlier));
    to.push_back(finding.names().title(pair.later));
    captions.push_back(
        fmt::format("{:.0f}%, {}", 100 * finding.rate(pair), analysis::days_text(pair.days_median)));
    customers.push_back(pair.both);
  }

  [[nodiscard]] result::Figure figure() && {
    result::Figure figure;
    figure.kind = result::Figure::Kind::arrows;
    figure.marks.columns = {result::text_column("earlier", "The one bought first.", std::move(from)),
                            result::integer_column("customers", result::Unit::count,
                                                   "Customers who bought both so.", std::move(customers)),
                            result::text_column("later", "The one bought afterwards.", std::move(to)),
                            result::text_column("told", "Share that went on, and the median of their days.",
                                                std::move(captions))};
    figure.along = 2;
    figure.captions = 3;
    figure.noticed = std::move(found);
    return figure;
  }
};

/// The surest steps, no more than a few from one item.
std::vector<const Transition*> surest_steps(const Finding& finding) {
  constexpr std::size_t kMost = 8, kMostFromOne = 4;
  std::vector<const Transition*> steps;
  std::map<std::uint32_t, std::size_t> from;
  for (const Transition* pair : finding.pairs) {
    if (steps.size() == kMost || !finding.is_found(*pair)) break;
    if (pair->earlier != pair->later && from[pair->earlier]++ < kMostFromOne) steps.push_back(pair);
  }
  return steps;
}

result::Figure strongest_arrows(const Finding& finding) {
  Arrows arrows;
  for (const Transition* pair : surest_steps(finding)) arrows.add(finding, *pair);
  result::Figure figure = std::move(arrows).figure();
  figure.subtitle =
      fmt::format("The surest steps: the share that goes on, and the median of days; {}", of_whom(finding));
  return figure;
}

/// What comes before one item, and what after: each other item on the side where it is the commoner.
result::Figure around_one(const Finding& finding) {
  constexpr std::size_t kMost = 6;
  Arrows arrows;
  for (const bool after : {false, true}) {
    std::size_t shown = 0;
    for (const Transition* pair : finding.pairs) {
      if (pair->earlier == pair->later || !is_beside(finding, *pair, after) || pair->both < finding.least ||
          pair->both < pair->reverse || (pair->both == pair->reverse && !after))
        continue;
      if (shown++ == kMost) break;
      arrows.add(finding, *pair);
    }
  }
  result::Figure figure = std::move(arrows).figure();
  figure.subtitle = fmt::format("Before and after {}: the share that goes on, and the median of days; {}; {}",
                                finding.names().title(*finding.about), kDark, of_whom(finding));
  return figure;
}

/// The share having bought, day by day, for the pairs of the headline.
result::Figure timing_curves(const Finding& finding) {
  constexpr std::int32_t kLeastDays = 60, kMostDays = 365;
  const std::vector<const Transition*> pairs = headline_pairs(finding);
  std::int32_t last = kLeastDays;
  for (const Transition* pair : pairs) last = std::max(last, std::min(kMostDays, 2 * pair->days_p75));
  result::Figure figure;
  figure.kind = result::Figure::Kind::lines;
  figure.part = "timing";
  figure.axis = result::Figure::Axis::days;
  TextArray days;
  for (std::int32_t day = 0; day <= last; ++day) days.push_back(std::to_string(day));
  figure.marks.columns = {result::text_column("day", "Days after the first.", std::move(days))};
  figure.values.clear();
  for (const Transition* pair : pairs) {
    const std::vector<statistics::SurvivalDay> curve = share_by_day(
        finding.histories, *finding.index, finding.rule, finding.asked.data_end, pair->earlier, pair->later);
    std::vector<double> shares;
    for (std::int32_t day = 0; day <= last; ++day)
      shares.push_back(curve[std::min(static_cast<std::size_t>(day), curve.size() - 1)].share);
    figure.values.push_back(figure.marks.columns.size());
    figure.marks.columns.push_back(
        result::share_column(fmt::format("{} > {}", expression::label_text(finding.key, pair->earlier),
                                         finding.names().title(pair->later)),
                             "Share that has bought it.", std::move(shares)));
  }
  figure.label_title = "days after the first of the two";
  figure.value_title = "share that has bought the other";
  figure.subtitle = fmt::format("Kaplan-Meier: customers count for as long as they could be followed; {}",
                                of_whom(finding));
  return figure;
}

std::string step_title(const Finding& finding, const Transition& pair) {
  return fmt::format("After {}, {} buy {}, half of them {} later", finding.names().title(pair.earlier),
                     analysis::per_cent(pair.both, finding.histories.counts[pair.earlier]),
                     finding.names().title(pair.later), quartiles_told(pair));
}

std::string timing_sentence(const Finding& finding, const Transition& pair) {
  const double within = pair.rates[1];
  const std::string what = pair.earlier == pair.later ? finding.names().title(pair.later) + " again"
                                                      : finding.names().title(pair.later);
  if (std::isnan(within))
    return fmt::format("After {}, {} buy {}", finding.names().title(pair.earlier),
                       analysis::per_cent(pair.both, finding.histories.counts[pair.earlier]), what);
  return fmt::format("Within {} days after {}, {:.0f}% have bought {}", kRateDays[1],
                     finding.names().title(pair.earlier), 100 * within, what);
}

}  // namespace

std::vector<std::string> headline_of(const Finding& finding) {
  if (finding.about && finding.rule.repeats != mining::Repeats::only)
    return {side_sentence(finding, true), side_sentence(finding, false)};
  std::vector<std::string> headline;
  const bool any = !finding.pairs.empty() && (finding.is_found(*finding.pairs.front()) ||
                                              finding.rule.repeats == mining::Repeats::only);
  headline.push_back(any ? pair_sentence(finding, *finding.pairs.front()) : nothing_sentence(finding));
  if (finding.rule.repeats != mining::Repeats::only) {
    if (const ListedSequence* chain = longest_found(finding))
      headline.push_back(chain_sentence(finding, *chain));
  }
  return headline;
}

std::vector<result::Figure> figures_of(const Finding& finding) {
  if (finding.pairs.empty()) return {};
  std::vector<result::Figure> figures;
  result::Figure arrows = finding.about ? around_one(finding) : strongest_arrows(finding);
  if (arrows.marks.rows() > 0) {
    arrows.title = step_title(finding, *headline_pairs(finding).front());
    figures.push_back(std::move(arrows));
  }
  result::Figure curves = timing_curves(finding);
  curves.title = timing_sentence(finding, *headline_pairs(finding).front());
  figures.push_back(std::move(curves));
  return figures;
}

}  // namespace pear::sequence
