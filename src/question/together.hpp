// together: what is bought together.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "question/basket_walk.hpp"
#include "question/itemsets.hpp"
#include "question/question.hpp"
#include "question/support_bound.hpp"
#include "result/result.hpp"

namespace pear {

struct TogetherOptions {
  BasketRule within;
  std::optional<Tree> level;            ///< what stands in place of products
  std::optional<std::string> product;   ///< everything about this one, by id or name
  std::optional<SupportBound> support;  ///< adapted to the data where left out
  double confidence = 0, lift = 0;      ///< least of each, as shares and ratios
  std::int64_t size = 3, largest = 5;   ///< items of the sets that are listed
  OnlySets only = OnlySets::all;
  double min_gain = 0.05;            ///< of a rule's confidence over its shorter forms
  std::int64_t at_most = 1'000'000;  ///< sets that are mined
  std::vector<SortKey> sort;         ///< of pairs, by their columns
};

/// Pairs, larger sets and rules of items that baskets hold together, with Fisher's exact test and
/// false-discovery control. Errors: usage, where an option does not fit, or more sets than --at-most reach
/// the support, with the support that would fit; data, where no basket has two items.
[[nodiscard]] OrError<Result> ask_together(const Asked& asked, const TogetherOptions& options);

[[nodiscard]] Question together_question();

}  // namespace pear
