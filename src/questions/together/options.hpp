// The options of together.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "analysis/options/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"
#include "mining/baskets.hpp"
#include "mining/frequent_itemsets.hpp"
#include "mining/min_support.hpp"

namespace pear::together {

struct Options {
  mining::BasketRule within;
  std::optional<expression::Tree> items;      ///< the items, instead of products
  std::optional<std::string> product;         ///< everything about this one, by id or name
  std::optional<mining::MinSupport> support;  ///< depends on the data by default
  double confidence = 0, lift = 0;            ///< least of each, as shares and ratios
  std::int64_t size = 3, largest = 5;         ///< items of the sets to list
  mining::OnlySets only = mining::OnlySets::all;
  double min_gain = 0.05;            ///< of a rule's confidence over its shorter forms
  std::int64_t at_most = 1'000'000;  ///< sets that are mined
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

/// Without --size, sets of three are the smallest that are listed, or those of --largest. Error: usage.
[[nodiscard]] OrError<Options> read(const analysis::OptionValues& values);

}  // namespace pear::together
