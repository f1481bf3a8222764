// The counts of together: pairs, sets and rules of items that baskets contain together.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "analysis/question_input.hpp"
#include "analysis/tables/item_labels.hpp"
#include "base/error.hpp"
#include "questions/together/options.hpp"
#include "statistics/significance.hpp"

namespace pear::together {

/// Two items, each pair once: a before b in the items' order, or a the requested item.
struct ItemPair {
  std::uint32_t a = 0, b = 0, both = 0;
  double p = 1, q = 1;
  DecimalSum amount, margin;  ///< of the two, in baskets with both
};

/// Baskets with `given` also contain `also`.
struct ItemRule {
  std::vector<std::uint32_t> given;
  std::uint32_t also = 0, baskets = 0, given_baskets = 0;
  double p = 1, q = 1;
  double sure = 0;  ///< the lower end of the confidence's 95% interval, by which rules are sorted
};

/// Everything that together computes.
struct Counts {
  const analysis::QuestionInput& input;  ///< borrowed
  Options options;
  expression::GroupKey key;
  std::string item;  ///< "product"
  mining::Baskets baskets;
  std::uint32_t least = 1;             ///< support in baskets
  std::optional<std::uint32_t> about;  ///< the requested item, as a code
  std::vector<ItemPair> pairs;         ///< in the order of the main table
  std::uint64_t pairs_tested = 0, rules_tested = 0;
  mining::ItemSets sets;  ///< the sets to list
  std::vector<ItemRule> rules;
  bool has_margins = false;

  [[nodiscard]] double size() const { return static_cast<double>(baskets.size()); }
  [[nodiscard]] double count(std::uint32_t code) const { return baskets.counts[code]; }
  [[nodiscard]] double lift(const ItemPair& pair) const {
    return static_cast<double>(pair.both) * size() / (count(pair.a) * count(pair.b));
  }
  [[nodiscard]] bool is_found(const ItemPair& pair) const {
    return pair.q <= statistics::kFalseDiscovery && lift(pair) > 1;
  }
  [[nodiscard]] analysis::ItemLabels names() const { return {input.daybook, key, item}; }
  [[nodiscard]] std::string title(std::uint32_t code) const { return names().title(code); }
};

/// See ask(). Errors: usage, also if there are too many sets; data, if no basket has two items.
[[nodiscard]] OrError<Counts> count(const analysis::QuestionInput& input, const Options& options);

}  // namespace pear::together
