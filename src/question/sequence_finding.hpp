// What sequence found, its tables, headline and figures.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "question/item_names.hpp"
#include "question/next_steps.hpp"
#include "question/sequence.hpp"
#include "question/sequences.hpp"

namespace pear {

/// Which of two items is bought first by those who bought both on different days.
enum class StepDirection : std::uint8_t { this_way, other_way, either };

/// A sequence of two steps and more that is listed.
struct ListedSequence {
  std::vector<StepItem> items;
  SequenceFacts facts;
  std::vector<std::int32_t>
      step_days;            ///< from each step to the next, each the median as of its own beginning
  std::uint32_t given = 0;  ///< customers of all but the last step
  double least_lift = 0;    ///< of its steps: rate by base rate
  double sure_lift = 0;     ///< the same by the lower ends of the rates' 95% intervals
  double least_ratio = 0;   ///< of its steps, each as a pair of its own: see NextStep
  double sure_ratio = 0;    ///< the same by the lower ends; what rows are ordered by
  bool is_found = false;
};

struct SequenceFinding {
  const Asked& asked;
  const SequenceOptions& options;
  SequenceRule rule;
  GroupKey key;
  std::string item;  ///< "product"
  Histories histories;
  std::uint32_t least = 1;                           ///< support in customers
  std::optional<std::uint32_t> about, starts, ends;  ///< items asked for, as codes
  std::optional<HistoryIndex> index;                 ///< of the histories
  NextSteps next;
  std::vector<const NextStep*> pairs;  ///< of `next`, in the order of their table
  std::vector<ListedSequence> sequences;

  [[nodiscard]] ItemNames names() const { return {asked.daybook, key, item}; }
  [[nodiscard]] double count(std::uint32_t code) const { return histories.counts[code]; }
  [[nodiscard]] double rate(const NextStep& pair) const { return pair.both / count(pair.earlier); }
  /// The share of all customers who bought it after any order of theirs.
  [[nodiscard]] double base_rate(std::uint32_t later) const {
    return static_cast<double>(histories.after_any[later]) / histories.buyers;
  }
  [[nodiscard]] double lift(const NextStep& pair) const { return rate(pair) / base_rate(pair.later); }
  /// By the lower end of the rate's 95% interval, so that few customers with a large lift do not go before
  /// many.
  [[nodiscard]] double sure_lift(const NextStep& pair) const;
  [[nodiscard]] StepDirection direction(const NextStep& pair) const;
  /// A sequence that is no chance: the direction is this way, and the lift surely above 1.
  [[nodiscard]] bool is_found(const NextStep& pair) const;
  /// "P53 > P54 + P55", or with names in place of ids.
  [[nodiscard]] std::string told(StepItems items, bool with_names) const;
};

/// Mines into the finding. Error: usage, where there are too many sequences.
[[nodiscard]] OrError<void> find_sequences(SequenceFinding& finding);

[[nodiscard]] Table sequences_table(const SequenceFinding& finding);
[[nodiscard]] Table next_table(const SequenceFinding& finding);
/// For the pairs of the headline, the share having bought by day.
[[nodiscard]] Table timing_table(const SequenceFinding& finding);
/// The pairs whose time is told by day: the first that are found, or that are there.
[[nodiscard]] std::vector<const NextStep*> headline_pairs(const SequenceFinding& finding);
[[nodiscard]] std::vector<std::string> sequence_headline(const SequenceFinding& finding);
[[nodiscard]] std::vector<Figure> sequence_figures(const SequenceFinding& finding);

}  // namespace pear
