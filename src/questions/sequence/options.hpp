// The options of sequence.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "analysis/options/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"
#include "mining/frequent_itemsets.hpp"
#include "mining/min_support.hpp"
#include "mining/purchase_histories.hpp"

namespace pear::sequence {

struct Options {
  std::optional<expression::Tree> items;  ///< the items, instead of products
  mining::Repeats repeats = mining::Repeats::first;
  std::optional<std::int64_t> min_gap, max_gap, span;  ///< days
  bool sets = false;
  std::optional<mining::MinSupport> support;  ///< depends on the data by default
  std::int64_t longest = 4;                   ///< steps of a sequence
  mining::OnlySets only = mining::OnlySets::all;
  std::optional<std::string> product, starts_with, ends_with;  ///< by id or name
  std::int64_t at_most = 1'000'000;                            ///< sequences that are mined
  std::optional<expression::Tree> journey;  ///< a flow from step to step of this column, instead of all else

  [[nodiscard]] mining::SequenceRule rule() const;
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

/// Error: usage, also for options that contradict each other.
[[nodiscard]] OrError<Options> read(const analysis::OptionValues& values);

}  // namespace pear::sequence
