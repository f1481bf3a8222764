// together: what is bought together.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "mining/baskets.hpp"
#include "mining/frequent_itemsets.hpp"
#include "mining/min_support.hpp"
#include "result/result.hpp"

namespace pear::together {

struct Options {
  mining::BasketRule within;
  std::optional<expression::Tree> level;      ///< what stands in place of products
  std::optional<std::string> product;         ///< everything about this one, by id or name
  std::optional<mining::MinSupport> support;  ///< adapted to the data where left out
  double confidence = 0, lift = 0;            ///< least of each, as shares and ratios
  std::int64_t size = 3, largest = 5;         ///< items of the sets that are listed
  mining::OnlySets only = mining::OnlySets::all;
  double min_gain = 0.05;                 ///< of a rule's confidence over its shorter forms
  std::int64_t at_most = 1'000'000;       ///< sets that are mined
  std::vector<expression::SortKey> sort;  ///< of pairs, by their columns
};

/// Pairs, larger sets and rules of items that baskets hold together, with Fisher's exact test and
/// false-discovery control. Errors: usage, where an option does not fit, or more sets than --at-most reach
/// the support, with the support that would fit; data, where no basket has two items.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& asked, const Options& options);

[[nodiscard]] analysis::Question question();

}  // namespace pear::together
