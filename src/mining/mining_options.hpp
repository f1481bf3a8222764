// Options that the questions about patterns share: each is declared once, with the noun of its patterns.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "analysis/options/expression_option.hpp"
#include "analysis/options/option.hpp"
#include "mining/frequent_itemsets.hpp"

namespace pear::mining {

/// --count: a column of products to use instead of them. `what`: "what is bought together".
template <class Options>
analysis::OptionDeclaration<Options> items_option(const std::string& what) {
  return analysis::tree_option<Options>({"count", "COLUMN", "product_id", what + ": any column of products"},
                                        &Options::items);
}

/// --condense: which patterns to keep among those that say the same. `patterns`: "sets that no larger one".
template <class Options>
analysis::OptionDeclaration<Options> only_option(const std::string& patterns) {
  return analysis::word_option<Options>(
      {"condense", "closed|maximal", "", patterns + " is as common as, or contains"}, &Options::only,
      {"all", "closed", "maximal"});
}

/// --at-most: how many patterns are mined before the support is raised. `patterns`: "sets".
template <class Options>
analysis::OptionDeclaration<Options> at_most_option(const std::string& patterns) {
  return analysis::whole_option<Options>(
      {"at-most", "N", "1000000", patterns + " that may reach the support"}, &Options::at_most, 1,
      1'000'000'000);
}

}  // namespace pear::mining
