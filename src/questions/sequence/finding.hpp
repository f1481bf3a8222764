// What sequence found, its tables, headline and figures.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "analysis/item_labels.hpp"
#include "mining/sequential_patterns.hpp"
#include "questions/sequence/question.hpp"
#include "questions/sequence/transitions.hpp"

namespace pear::sequence {

/// Which of two items is bought first by those who bought both on different days.
enum class StepDirection : std::uint8_t { this_way, other_way, either };

/// A sequence of two steps and more that is listed.
struct ListedSequence {
  std::vector<mining::StepItem> items;
  mining::SequenceFacts facts;
  std::vector<std::int32_t>
      step_days;            ///< from each step to the next, each the median as of its own beginning
  std::uint32_t given = 0;  ///< customers of all but the last step
  double least_lift = 0;    ///< of its steps: rate by base rate
  double sure_lift = 0;     ///< the same by the lower ends of the rates' 95% intervals
  double least_ratio = 0;   ///< of its steps, each as a pair of its own: see Transition
  double sure_ratio = 0;    ///< the same by the lower ends; what rows are ordered by
  bool is_found = false;
};

struct Finding {
  const analysis::QuestionInput& asked;
  const Options& options;
  mining::SequenceRule rule;
  expression::GroupKey key;
  std::string item;  ///< "product"
  mining::Histories histories;
  std::uint32_t least = 1;                           ///< support in customers
  std::optional<std::uint32_t> about, starts, ends;  ///< items asked for, as codes
  std::optional<mining::HistoryIndex> index;         ///< of the histories
  Transitions next;
  std::vector<const Transition*> pairs;  ///< of `next`, in the order of their table
  std::vector<ListedSequence> sequences;

  [[nodiscard]] analysis::ItemLabels names() const { return {asked.daybook, key, item}; }
  [[nodiscard]] double count(std::uint32_t code) const { return histories.counts[code]; }
  [[nodiscard]] double rate(const Transition& pair) const { return pair.both / count(pair.earlier); }
  /// The share of all customers who bought it after any order of theirs.
  [[nodiscard]] double base_rate(std::uint32_t later) const {
    return static_cast<double>(histories.after_any[later]) / histories.buyers;
  }
  [[nodiscard]] double lift(const Transition& pair) const { return rate(pair) / base_rate(pair.later); }
  /// By the lower end of the rate's 95% interval, so that few customers with a large lift do not go before
  /// many.
  [[nodiscard]] double sure_lift(const Transition& pair) const;
  [[nodiscard]] StepDirection direction(const Transition& pair) const;
  /// A sequence that is no chance: the direction is this way, and the lift surely above 1.
  [[nodiscard]] bool is_found(const Transition& pair) const;
  /// "P53 > P54 + P55", or with names in place of ids.
  [[nodiscard]] std::string told(mining::StepItems items, bool with_names) const;
};

/// Mines into the finding. Error: usage, where there are too many sequences.
[[nodiscard]] OrError<void> find_sequences(Finding& finding);

[[nodiscard]] result::Table sequences_table(const Finding& finding);
[[nodiscard]] result::Table transitions_table(const Finding& finding);
/// For the pairs of the headline, the share having bought by day.
[[nodiscard]] result::Table timing_table(const Finding& finding);
/// The pairs whose time is told by day: the first that are found, or that are there.
[[nodiscard]] std::vector<const Transition*> headline_pairs(const Finding& finding);
[[nodiscard]] std::vector<std::string> headline_of(const Finding& finding);
[[nodiscard]] std::vector<result::Figure> figures_of(const Finding& finding);

}  // namespace pear::sequence
