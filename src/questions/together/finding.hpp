// What together found, its tables, headline and figures.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "analysis/item_labels.hpp"
#include "questions/together/question.hpp"
#include "statistics/significance.hpp"

namespace pear::together {

/// Two items, each pair once: a before b in the items' order, or a the item asked about.
struct ItemPair {
  std::uint32_t a = 0, b = 0, both = 0;
  double p = 1, q = 1;
  DecimalSum amount, margin;  ///< of the two, in baskets with both
};

/// Who has `given` has `also`, too.
struct ItemRule {
  std::vector<std::uint32_t> given;
  std::uint32_t also = 0, baskets = 0, given_baskets = 0;
  double p = 1, q = 1;
  double sure = 0;  ///< the lower end of the confidence's 95% interval, by which rules are ordered
};

struct Finding {
  const analysis::QuestionInput& asked;
  const Options& options;
  expression::GroupKey key;
  std::string item;  ///< "product"
  mining::Baskets baskets;
  std::uint32_t least = 1;             ///< support in baskets
  std::optional<std::uint32_t> about;  ///< the item asked about, as a code
  std::vector<ItemPair> pairs;         ///< in the order of the main table
  std::uint64_t pairs_tested = 0, rules_tested = 0;
  mining::ItemSets sets;  ///< those that are listed
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
  [[nodiscard]] analysis::ItemLabels names() const { return {asked.daybook, key, item}; }
  [[nodiscard]] std::string title(std::uint32_t code) const { return names().title(code); }
};

/// Mines into the finding: pairs with their tests, sets, rules. Error: usage, where there are too many.
[[nodiscard]] OrError<void> find_together(Finding& finding);

[[nodiscard]] result::Table pairs_table(const Finding& finding);
[[nodiscard]] result::Table sets_table(const Finding& finding);
[[nodiscard]] result::Table rules_table(const Finding& finding);
/// A row for each item: its baskets, and how many hold nothing else.
[[nodiscard]] result::Table items_table(const Finding& finding);
[[nodiscard]] std::vector<std::string> headline_of(const Finding& finding);
[[nodiscard]] std::vector<result::Figure> figures_of(const Finding& finding);

}  // namespace pear::together
