#include "questions/sequence/counts.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "mining/baskets.hpp"
#include "mining/prefix_growth.hpp"
#include "statistics/significance.hpp"
#include "statistics/wilson_interval.hpp"

namespace pear::sequence {
namespace {

/// The sequences, from histories that lose what is too rare for them.
OrError<mining::Sequences> mine(Counts& counts, mining::Histories& histories) {
  const Options& options = counts.options;
  const auto largest =
      static_cast<std::size_t>(options.longest) + (options.only == mining::OnlySets::all ? 0U : 1U);
  mining::MiningBounds bounds{1, largest, static_cast<std::size_t>(options.at_most)};
  if (!options.support) {
    bounds.least = usual_support(histories.buyers);
    bounds.at_most = std::min(bounds.at_most, kMostSequences);
    mining::Sequences mined = mining::mine_what_fits(histories, counts.rule, bounds, counts.input.progress);
    counts.least = bounds.least;
    return mined;
  }
  bounds.least = counts.least = options.support->of(histories.buyers);
  mining::drop_rare(histories, bounds.least);
  auto mined = mining::mine_sequences(histories, mining::HistoryIndex(histories), counts.rule, bounds,
                                      counts.input.progress);
  if (mined) return std::move(*mined);
  (void)mining::mine_what_fits(histories, counts.rule, bounds);
  return too_many_sequences(counts, bounds.least);
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
StepDirection direction_of(const Counts& counts, const Step& earlier, const Step& later) {
  StepDirection direction = StepDirection::this_way;
  for (const std::uint32_t a : earlier) {
    for (const std::uint32_t b : later) {
      if (a == b) continue;
      const Transition* pair = counts.next.find(a, b);
      const StepDirection own = pair == nullptr ? StepDirection::either : counts.direction(*pair);
      if (own == StepDirection::other_way) return own;
      if (own == StepDirection::either) direction = own;
    }
  }
  return direction;
}

/// Whether each step significantly follows one of those before it, and none of them significantly follows it.
bool goes_this_way(const Counts& counts, const std::vector<Step>& steps) {
  for (std::size_t later = 1; later < steps.size(); ++later) {
    bool follows = false;
    for (std::size_t earlier = 0; earlier < later; ++earlier) {
      const StepDirection direction = direction_of(counts, steps[earlier], steps[later]);
      if (direction == StepDirection::other_way) return false;
      follows = follows || direction == StepDirection::this_way;
    }
    if (!follows) return false;
  }
  return true;
}

/// The least ratios of steps that follow one another, each as a separate pair.
void set_ratios(const Counts& counts, const std::vector<Step>& steps, ListedSequence& listed) {
  listed.least_ratio = listed.sure_ratio = std::numeric_limits<double>::infinity();
  for (std::size_t later = 1; later < steps.size(); ++later) {
    for (const std::uint32_t a : steps[later - 1]) {
      for (const std::uint32_t b : steps[later]) {
        const Transition& pair = *counts.next.find(a, b);
        listed.least_ratio = std::min(listed.least_ratio, pair.rate_ratio);
        listed.sure_ratio = std::min(listed.sure_ratio, pair.sure_ratio);
      }
    }
  }
}

/// Examines every step of a sequence, given those before it.
class Lister {
 public:
  Lister(const Counts& counts, const mining::Sequences& mined)
      : finding_(counts), mined_(mined), index_(mined) {}

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
  const Counts& finding_;
  const mining::Sequences& mined_;
  mining::SequenceIndex index_;
};

/// Mines into the counts. Error: usage, if there are too many sequences.
OrError<void> find_sequences(Counts& counts) {
  mining::Histories whole;  // what comes before and after a requested item is counted however rare it is
  if (counts.about) whole = counts.histories;
  PEAR_ASSIGN(const mining::Sequences mined, mine(counts, counts.histories));
  if (counts.about) counts.histories = std::move(whole);
  counts.index.emplace(counts.histories);
  const mining::FirstPurchases model(counts.input.daybook, counts.key, counts.histories);
  counts.next = find_transitions(counts.histories, *counts.index, model, counts.rule, counts.input.data_end,
                                 counts.least, counts.about, counts.input.progress);
  list_pairs(counts);
  const std::vector<std::uint8_t> kept = mining::kept_sequences(mined, counts.rule, counts.options.only);
  const Lister lister(counts, mined);
  for (std::uint32_t sequence = 0; sequence < mined.size(); ++sequence)
    if (kept[sequence] != 0 && lister.is_wanted(sequence)) counts.sequences.push_back(lister.list(sequence));
  sort_sequences(counts);
  return {};
}

OrError<void> find_items(Counts& counts) {
  const auto find = [&](const char* option, const std::optional<std::string>& text,
                        std::optional<std::uint32_t>& code) -> OrError<void> {
    if (text) {
      PEAR_ASSIGN(code, counts.names().find(option, *text));
    }
    return {};
  };
  PEAR_TRY(find("product", counts.options.product, counts.about));
  PEAR_TRY(find("starts-with", counts.options.starts_with, counts.starts));
  return find("ends-with", counts.options.ends_with, counts.ends);
}

/// Whether anybody bought on two days.
bool has_steps(const mining::Histories& histories) {
  return std::any_of(histories.entries.begin(), histories.entries.end(),
                     [](const mining::HistoryEntry& entry) { return entry.follows; });
}

}  // namespace

double Counts::sure_lift(const Transition& pair) const {
  return statistics::wilson_interval(pair.both, histories.counts[pair.earlier]).low / base_rate(pair.later);
}

StepDirection Counts::direction(const Transition& pair) const {
  if (pair.q > statistics::kFalseDiscovery) return StepDirection::either;
  return pair.one_way > pair.expected_one_way ? StepDirection::this_way : StepDirection::other_way;
}

bool Counts::is_found(const Transition& pair) const {
  if (!(sure_lift(pair) > 1)) return false;
  if (!tests_directions) return pair.one_way > pair.other_way;
  return pair.earlier == pair.later || direction(pair) == StepDirection::this_way;
}

std::string Counts::text_of(mining::StepItems items, bool with_names) const {
  std::string text;
  const analysis::ItemLabels of = names();
  for (const mining::StepItem each : items) {
    if (!text.empty()) text += each.begins_step() ? " > " : " + ";
    text += with_names ? of.name(each.code()) : expression::label_text(key, each.code());
  }
  return text;
}

/// Significant ones first, sorted by their lower bounds; the others, and all if only repurchases count, by
/// customers.
void sort_sequences(Counts& counts) {
  const bool by_customers = counts.rule.repeats == mining::Repeats::only;
  std::stable_sort(counts.sequences.begin(), counts.sequences.end(),
                   [&](const ListedSequence& a, const ListedSequence& b) {
                     if (by_customers) return a.facts.customers > b.facts.customers;
                     if (a.is_found != b.is_found) return a.is_found;
                     if (a.is_found && a.sure_ratio != b.sure_ratio) return a.sure_ratio > b.sure_ratio;
                     return a.facts.customers > b.facts.customers;
                   });
}

void list_pairs(Counts& counts) {
  struct Row {
    const Transition* pair = nullptr;
    bool is_found = false;
  };
  std::vector<Row> rows;
  const auto& [about, starts, ends] = std::tie(counts.about, counts.starts, counts.ends);
  for (const Transition& pair : counts.next.pairs)
    if ((!about || pair.earlier == about || pair.later == about) && (!starts || pair.earlier == starts) &&
        (!ends || pair.later == ends))
      rows.push_back({&pair, counts.is_found(pair)});
  const bool by_customers = counts.rule.repeats == mining::Repeats::only;
  std::stable_sort(rows.begin(), rows.end(), [&](const Row& a, const Row& b) {
    if (by_customers) return a.pair->both > b.pair->both;
    if (a.is_found != b.is_found) return a.is_found;
    if (a.is_found && a.pair->sure_ratio != b.pair->sure_ratio)
      return a.pair->sure_ratio > b.pair->sure_ratio;
    return a.pair->both > b.pair->both;
  });
  for (const Row& row : rows) counts.pairs.push_back(row.pair);
}

std::vector<const Transition*> headline_pairs(const Counts& counts) {
  constexpr std::size_t kMost = 6;
  std::vector<const Transition*> pairs;
  for (const Transition* pair : counts.pairs)
    if (pairs.size() < kMost && counts.is_found(*pair)) pairs.push_back(pair);
  if (pairs.empty() && !counts.pairs.empty()) pairs.push_back(counts.pairs.front());
  return pairs;
}

std::string gaps_text(const mining::SequenceRule& rule) {
  std::string text =
      rule.min_gap == 1
          ? "on a later day"
          : fmt::format("at least {} later", counted(static_cast<std::uint64_t>(rule.min_gap), "day"));
  if (rule.max_gap != mining::SequenceRule::kAny)
    text += fmt::format(", at most {} after the previous step",
                        counted(static_cast<std::uint64_t>(rule.max_gap), "day"));
  if (rule.span != mining::SequenceRule::kAny)
    text += fmt::format(", all steps within {}", counted(static_cast<std::uint64_t>(rule.span), "day"));
  return text;
}

std::uint32_t usual_support(std::uint32_t buyers) {
  constexpr std::uint32_t kFewest = 5;
  return std::max(kFewest, (buyers + 999) / 1000);
}

tl::unexpected<Error> no_sequence(const Counts& counts) {
  return data_error(fmt::format(
      "none of the {} bought {}{}, so there is no sequence.", counted(counts.histories.buyers, "customer"),
      counts.rule.repeats == mining::Repeats::first ? "another " + counts.item + " " : "",
      gaps_text(counts.rule)));
}

tl::unexpected<Error> too_many_sequences(const Counts& counts, std::uint32_t fits) {
  return usage_error(
      fmt::format("more than {} sequences reach a support of {}, more than --at-most allows. Use --support "
                  "\"{} customers\", or a smaller --longest.",
                  with_thousands(counts.options.at_most), counted(counts.least, "customer"), fits));
}

OrError<Counts> without_histories(const analysis::QuestionInput& input, const Options& options,
                                  std::pair<expression::GroupKey, std::string> key) {
  Counts counts{input,
                options,
                options.rule(),
                std::move(key.first),
                std::move(key.second),
                {},
                1,
                {},
                {},
                {},
                {},
                {},
                {},
                {},
                {}};
  PEAR_TRY(find_items(counts));
  return counts;
}

OrError<Counts> count(const analysis::QuestionInput& input, const Options& options) {
  const expression::LineView lines(input.daybook, input.grains);
  PEAR_ASSIGN(auto key, mining::basket_key(options.items, lines));
  PEAR_ASSIGN(Counts counts, without_histories(input, options, std::move(key)));
  counts.histories = mining::gather_histories(input.daybook, counts.key, counts.rule);
  if (!has_steps(counts.histories)) return no_sequence(counts);
  PEAR_TRY(find_sequences(counts));
  for (const Transition* pair : headline_pairs(counts))
    counts.timing.push_back({pair, share_by_day(counts.histories, *counts.index, counts.rule, input.data_end,
                                                pair->earlier, pair->later)});
  return counts;
}

}  // namespace pear::sequence
