// sequence: what is bought one after another, and how long after.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "base/error.hpp"
#include "question/histories.hpp"
#include "question/itemsets.hpp"
#include "question/question.hpp"
#include "question/support_bound.hpp"
#include "result/result.hpp"

namespace pear {

struct SequenceOptions {
  std::optional<Tree> level;  ///< what stands in place of products
  Repeats repeats = Repeats::first;
  std::optional<std::int64_t> min_gap, max_gap, span;  ///< days
  bool sets = false;
  std::optional<SupportBound> support;  ///< adapted to the data where left out
  std::int64_t longest = 4;             ///< steps of a sequence
  OnlySets only = OnlySets::all;
  std::optional<std::string> product, starts_with, ends_with;  ///< by id or name
  std::int64_t at_most = 1'000'000;                            ///< sequences that are mined
  std::optional<Tree> journey;  ///< a flow from step to step of this column, in place of all else

  [[nodiscard]] SequenceRule rule() const;
};

/// Sequences of items that customers bought on later and later days, and all pairs of them with direction,
/// rate and time. Errors: usage, where an option does not fit, or more sequences than --at-most reach the
/// support, with the support that would fit; data, where nobody bought on two days.
[[nodiscard]] OrError<Result> ask_sequence(const Asked& asked, const SequenceOptions& options);

[[nodiscard]] Question sequence_question();

}  // namespace pear
