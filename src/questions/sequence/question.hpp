// sequence: what is bought one after another, and how long after.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "mining/frequent_itemsets.hpp"
#include "mining/min_support.hpp"
#include "mining/purchase_histories.hpp"
#include "result/result.hpp"

namespace pear::sequence {

struct Options {
  std::optional<expression::Tree> level;  ///< what stands in place of products
  mining::Repeats repeats = mining::Repeats::first;
  std::optional<std::int64_t> min_gap, max_gap, span;  ///< days
  bool sets = false;
  std::optional<mining::MinSupport> support;  ///< adapted to the data where left out
  std::int64_t longest = 4;                   ///< steps of a sequence
  mining::OnlySets only = mining::OnlySets::all;
  std::optional<std::string> product, starts_with, ends_with;  ///< by id or name
  std::int64_t at_most = 1'000'000;                            ///< sequences that are mined
  std::optional<expression::Tree> journey;  ///< a flow from step to step of this column, in place of all else

  [[nodiscard]] mining::SequenceRule rule() const;
};

/// Sequences of items that customers bought on later and later days, and all pairs of them with direction,
/// rate and time. Errors: usage, where an option does not fit, or more sequences than --at-most reach the
/// support, with the support that would fit; data, where nobody bought on two days.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& asked, const Options& options);

[[nodiscard]] analysis::Question question();

}  // namespace pear::sequence
