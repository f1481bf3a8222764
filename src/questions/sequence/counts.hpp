// The counts of sequence: sequences of items, and all pairs of them with direction, rate and time.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "analysis/question_input.hpp"
#include "analysis/tables/item_labels.hpp"
#include "base/error.hpp"
#include "mining/sequential_patterns.hpp"
#include "questions/sequence/options.hpp"
#include "questions/sequence/transitions.hpp"

namespace pear::sequence {

/// Which of two items customers buy first if they buy both on different days.
enum class StepDirection : std::uint8_t { this_way, other_way, either };

/// A sequence of two or more steps to list.
struct ListedSequence {
  std::vector<mining::StepItem> items;
  mining::SequenceFacts facts;
  std::vector<std::int32_t> step_days;  ///< from each step to the next, each the median for its own beginning
  std::uint32_t given = 0;              ///< customers of all but the last step
  double least_lift = 0;                ///< of its steps: rate by base rate
  double sure_lift = 0;                 ///< the same by the lower ends of the rates' 95% intervals
  double least_ratio = 0;               ///< of its steps, each as a separate pair: see Transition
  double sure_ratio = 0;                ///< the same by the lower ends; rows are sorted by it
  bool is_found = false;
};

/// The share of those who bought the earlier item of a pair that have bought the later one, by day.
struct PairCurve {
  const Transition* pair = nullptr;
  std::vector<statistics::SurvivalDay> days;
};

/// Everything that sequence computes.
struct Counts {
  const analysis::QuestionInput& input;  ///< borrowed
  Options options;
  mining::SequenceRule rule;
  expression::GroupKey key;
  std::string item;  ///< "product"
  mining::Histories histories;
  std::uint32_t least = 1;                           ///< support in customers
  std::optional<std::uint32_t> about, starts, ends;  ///< requested items, as codes
  std::optional<mining::HistoryIndex> index;         ///< of the histories
  Transitions next;
  std::vector<const Transition*> pairs;  ///< of `next`, in the order of their table
  std::vector<ListedSequence> sequences;
  std::vector<PairCurve> timing;  ///< of the first significant pairs, or the first one
  bool tests_directions = true;   ///< if not, nothing of Transition::expected_one_way is known

  [[nodiscard]] analysis::ItemLabels names() const { return {input.daybook, key, item}; }
  [[nodiscard]] double count(std::uint32_t code) const { return histories.counts[code]; }
  [[nodiscard]] double rate(const Transition& pair) const { return pair.both / count(pair.earlier); }
  /// The share of all customers who bought it after any order of theirs.
  [[nodiscard]] double base_rate(std::uint32_t later) const {
    return static_cast<double>(histories.after_any[later]) / histories.buyers;
  }
  [[nodiscard]] double lift(const Transition& pair) const { return rate(pair) / base_rate(pair.later); }
  /// By the lower bound of the rate's 95% interval, so that few customers with a large lift do not rank
  /// before many.
  [[nodiscard]] double sure_lift(const Transition& pair) const;
  [[nodiscard]] StepDirection direction(const Transition& pair) const;
  /// Significant: the direction is this way, and the lower 95% bound of the lift is above 1. Where directions
  /// are not tested, more customers bought the two in this order than in the other.
  [[nodiscard]] bool is_found(const Transition& pair) const;
  /// "P53 > P54 + P55", or with names instead of ids.
  [[nodiscard]] std::string text_of(mining::StepItems items, bool with_names) const;
};

/// The pairs whose time is shown by day: the first significant ones, or the first ones.
[[nodiscard]] std::vector<const Transition*> headline_pairs(const Counts& counts);

/// "on a later day, at most 90 days after the previous step"
[[nodiscard]] std::string gaps_text(const mining::SequenceRule& rule);

/// Without histories and what follows from them. Error: usage, for an item that does not exist.
[[nodiscard]] OrError<Counts> without_histories(const analysis::QuestionInput& input, const Options& options,
                                                std::pair<expression::GroupKey, std::string> key);
/// Sorts the pairs and lists those that fit the options.
void list_pairs(Counts& counts);
/// Sorts the sequences: significant ones first.
void sort_sequences(Counts& counts);
/// Support, unless it is given: 1 in 1,000 customers, but at least 5; doubled while more than so many
/// sequences reach it.
constexpr std::size_t kMostSequences = 20'000;
[[nodiscard]] std::uint32_t usual_support(std::uint32_t buyers);
[[nodiscard]] tl::unexpected<Error> no_sequence(const Counts& counts);
[[nodiscard]] tl::unexpected<Error> too_many_sequences(const Counts& counts, std::uint32_t fits);

/// See ask(). Errors: usage, also if there are too many sequences; data, if nobody bought on two days.
[[nodiscard]] OrError<Counts> count(const analysis::QuestionInput& input, const Options& options);

}  // namespace pear::sequence
