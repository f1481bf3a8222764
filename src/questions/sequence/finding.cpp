// From histories to sequences that are listed.
#include "questions/sequence/finding.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "statistics/significance.hpp"
#include "statistics/wilson_interval.hpp"

namespace pear::sequence {
namespace {

/// The sequences, in histories that lose what is too rare for them. Support, unless it is given: 1 in 1,000
/// customers, but 5 at least; doubled while more than 20,000 sequences reach it.
OrError<mining::Sequences> mine(Finding& finding, mining::Histories& histories) {
  constexpr std::uint32_t kFewest = 5;
  constexpr std::size_t kMost = 20'000;
  const Options& options = finding.options;
  const auto largest =
      static_cast<std::size_t>(options.longest) + (options.only == mining::OnlySets::all ? 0U : 1U);
  mining::MiningBounds bounds{1, largest, static_cast<std::size_t>(options.at_most)};
  if (!options.support) {
    bounds.least = std::max(kFewest, (histories.buyers + 999) / 1000);
    bounds.at_most = std::min(bounds.at_most, kMost);
    mining::Sequences mined = mining::mine_what_fits(histories, finding.rule, bounds, finding.asked.progress);
    finding.least = bounds.least;
    return mined;
  }
  bounds.least = finding.least = options.support->of(histories.buyers);
  mining::drop_rare(histories, bounds.least);
  auto mined = mining::mine_sequences(histories, mining::HistoryIndex(histories), finding.rule, bounds,
                                      finding.asked.progress);
  if (mined) return std::move(*mined);
  (void)mining::mine_what_fits(histories, finding.rule, bounds);
  return usage_error(
      fmt::format("more than {} sequences reach a support of {}, more than --at-most allows. With "
                  "--support \"{} customers\" they are fewer; or take a smaller --longest.",
                  with_thousands(options.at_most), counted(finding.least, "customer"), bounds.least));
}

/// Where the last step of a sequence begins.
std::size_t last_step(mining::StepItems items) {
  std::size_t at = items.size() - 1;
  while (!items[at].begins_step()) --at;
  return at;
}

using Step = std::vector<std::uint32_t>;

std::vector<Step> steps_in(mining::StepItems items) {
  std::vector<Step> steps;
  for (const mining::StepItem item : items) {
    if (item.begins_step()) steps.emplace_back();
    steps.back().push_back(item.code());
  }
  return steps;
}

/// Whether every item of a step is bought before those of the other more often than after.
StepDirection direction_of(const Finding& finding, const Step& earlier, const Step& later) {
  StepDirection direction = StepDirection::this_way;
  for (const std::uint32_t a : earlier) {
    for (const std::uint32_t b : later) {
      if (a == b) continue;
      const Transition* pair = finding.next.find(a, b);
      const StepDirection own = pair == nullptr ? StepDirection::either : finding.direction(*pair);
      if (own == StepDirection::other_way) return own;
      if (own == StepDirection::either) direction = own;
    }
  }
  return direction;
}

/// Whether each step follows one of those before it for sure, and none of them comes after it for sure.
bool goes_this_way(const Finding& finding, const std::vector<Step>& steps) {
  for (std::size_t later = 1; later < steps.size(); ++later) {
    bool follows = false;
    for (std::size_t earlier = 0; earlier < later; ++earlier) {
      const StepDirection direction = direction_of(finding, steps[earlier], steps[later]);
      if (direction == StepDirection::other_way) return false;
      follows = follows || direction == StepDirection::this_way;
    }
    if (!follows) return false;
  }
  return true;
}

/// The least ratios of steps that follow one another, each as a pair of its own.
void set_ratios(const Finding& finding, const std::vector<Step>& steps, ListedSequence& listed) {
  listed.least_ratio = listed.sure_ratio = std::numeric_limits<double>::infinity();
  for (std::size_t later = 1; later < steps.size(); ++later) {
    for (const std::uint32_t a : steps[later - 1]) {
      for (const std::uint32_t b : steps[later]) {
        const Transition& pair = *finding.next.find(a, b);
        listed.least_ratio = std::min(listed.least_ratio, pair.rate_ratio);
        listed.sure_ratio = std::min(listed.sure_ratio, pair.sure_ratio);
      }
    }
  }
}

/// Looks at every step of a sequence, given those before it.
class Lister {
 public:
  Lister(const Finding& finding, const mining::Sequences& mined)
      : finding_(finding), mined_(mined), index_(mined) {}

  [[nodiscard]] ListedSequence list(std::uint32_t sequence) const {
    ListedSequence listed;
    const mining::StepItems items = mined_.items(sequence);
    listed.items.assign(items.begin(), items.end());
    listed.facts = mined_.facts(sequence);
    listed.least_lift = listed.sure_lift = std::numeric_limits<double>::infinity();
    std::uint32_t with = listed.facts.customers;
    mining::StepItems rest = items;
    std::int32_t days = listed.facts.last_days;
    for (std::size_t at = last_step(rest); at > 0; at = last_step(rest)) {
      const mining::SequenceFacts& alone = mined_.facts(*index_.find(rest.subspan(at)));
      const mining::SequenceFacts& given = mined_.facts(*index_.find(rest.first(at)));
      const double base = static_cast<double>(alone.after_any) / finding_.histories.buyers;
      if (listed.given == 0) listed.given = given.customers;
      listed.least_lift = std::min(listed.least_lift, with / (given.customers * base));
      listed.sure_lift =
          std::min(listed.sure_lift, statistics::wilson_interval(with, given.customers).low / base);
      listed.step_days.insert(listed.step_days.begin(), days);
      with = given.customers;
      days = given.last_days;
      rest = rest.first(at);
    }
    const bool again = finding_.rule.repeats == mining::Repeats::only;
    const std::vector<Step> steps = steps_in(items);
    set_ratios(finding_, steps, listed);
    listed.is_found = listed.sure_lift > 1 && (again || goes_this_way(finding_, steps));
    return listed;
  }

  [[nodiscard]] bool is_wanted(std::uint32_t sequence) const {
    const mining::StepItems items = mined_.items(sequence);
    const std::size_t steps = mining::steps_of(items);
    if (steps < 2 || steps > static_cast<std::size_t>(finding_.options.longest)) return false;
    const auto holds = [](mining::StepItems part, std::optional<std::uint32_t> code) {
      return !code || std::any_of(part.begin(), part.end(),
                                  [&](mining::StepItem item) { return item.code() == code; });
    };
    std::size_t first_end = 1;
    while (!items[first_end].begins_step()) ++first_end;
    return holds(items, finding_.about) && holds(items.first(first_end), finding_.starts) &&
           holds(items.subspan(last_step(items)), finding_.ends);
  }

 private:
  const Finding& finding_;
  const mining::Sequences& mined_;
  mining::SequenceIndex index_;
};

/// Those found first, the surest first; the others, and all where only repurchases count, by customers.
void sort_sequences(Finding& finding) {
  const bool by_customers = finding.rule.repeats == mining::Repeats::only;
  std::stable_sort(finding.sequences.begin(), finding.sequences.end(),
                   [&](const ListedSequence& a, const ListedSequence& b) {
                     if (by_customers) return a.facts.customers > b.facts.customers;
                     if (a.is_found != b.is_found) return a.is_found;
                     if (a.is_found && a.sure_ratio != b.sure_ratio) return a.sure_ratio > b.sure_ratio;
                     return a.facts.customers > b.facts.customers;
                   });
}

void list_pairs(Finding& finding) {
  struct Row {
    const Transition* pair = nullptr;
    bool is_found = false;
  };
  std::vector<Row> rows;
  const auto& [about, starts, ends] = std::tie(finding.about, finding.starts, finding.ends);
  for (const Transition& pair : finding.next.pairs)
    if ((!about || pair.earlier == about || pair.later == about) && (!starts || pair.earlier == starts) &&
        (!ends || pair.later == ends))
      rows.push_back({&pair, finding.is_found(pair)});
  const bool by_customers = finding.rule.repeats == mining::Repeats::only;
  std::stable_sort(rows.begin(), rows.end(), [&](const Row& a, const Row& b) {
    if (by_customers) return a.pair->both > b.pair->both;
    if (a.is_found != b.is_found) return a.is_found;
    if (a.is_found && a.pair->sure_ratio != b.pair->sure_ratio)
      return a.pair->sure_ratio > b.pair->sure_ratio;
    return a.pair->both > b.pair->both;
  });
  for (const Row& row : rows) finding.pairs.push_back(row.pair);
}

}  // namespace

double Finding::sure_lift(const Transition& pair) const {
  return statistics::wilson_interval(pair.both, histories.counts[pair.earlier]).low / base_rate(pair.later);
}

StepDirection Finding::direction(const Transition& pair) const {
  if (pair.q > statistics::kFalseDiscovery || pair.one_way == pair.other_way) return StepDirection::either;
  return pair.one_way > pair.other_way ? StepDirection::this_way : StepDirection::other_way;
}

bool Finding::is_found(const Transition& pair) const {
  if (!(sure_lift(pair) > 1)) return false;
  return pair.earlier == pair.later || direction(pair) == StepDirection::this_way;
}

std::string Finding::told(mining::StepItems items, bool with_names) const {
  std::string text;
  const analysis::ItemLabels of = names();
  for (const mining::StepItem each : items) {
    if (!text.empty()) text += each.begins_step() ? " > " : " + ";
    text += with_names ? of.name(each.code()) : expression::label_text(key, each.code());
  }
  return text;
}

OrError<void> find_sequences(Finding& finding) {
  mining::Histories whole;  // what comes before and after one item is told however rare it is
  if (finding.about) whole = finding.histories;
  PEAR_ASSIGN(const mining::Sequences mined, mine(finding, finding.histories));
  if (finding.about) finding.histories = std::move(whole);
  finding.index.emplace(finding.histories);
  finding.next = find_transitions(finding.histories, *finding.index, finding.rule, finding.asked.data_end,
                                  finding.least, finding.about, finding.asked.progress);
  list_pairs(finding);
  const std::vector<std::uint8_t> kept = mining::kept_sequences(mined, finding.rule, finding.options.only);
  const Lister lister(finding, mined);
  for (std::uint32_t sequence = 0; sequence < mined.size(); ++sequence)
    if (kept[sequence] != 0 && lister.is_wanted(sequence)) finding.sequences.push_back(lister.list(sequence));
  sort_sequences(finding);
  return {};
}

}  // namespace pear::sequence
