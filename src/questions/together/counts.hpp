// The counts of together: pairs, sets and rules of items that baskets contain together.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "analysis/question_input.hpp"
#include "analysis/tables/item_labels.hpp"
#include "base/error.hpp"
#include "mining/association.hpp"
#include "questions/together/options.hpp"
#include "statistics/significance.hpp"

namespace pear::together {

/// Two items, each pair once: a before b in the items' order, or a the requested item.
struct ItemPair {
  std::uint32_t a = 0, b = 0, both = 0;
  mining::Association test;
  DecimalSum amount, margin;  ///< of the two, in baskets with both
};

/// Baskets with `given` also contain `also`.
struct ItemRule {
  std::vector<std::uint32_t> given;
  std::uint32_t also = 0, baskets = 0, given_baskets = 0;
  mining::Association test;
  double sure = 0;  ///< the lower end of the confidence's 95% interval, by which rules are sorted

  [[nodiscard]] double confidence() const { return static_cast<double>(baskets) / given_baskets; }
  [[nodiscard]] double lift() const { return baskets / test.expected; }
  [[nodiscard]] bool is_found() const { return test.q <= statistics::kFalseDiscovery && lift() > 1; }
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
  std::string period;                  ///< within which the null model shuffles: "month", or empty
  std::vector<ItemPair> pairs;         ///< in the order of the main table
  std::uint64_t pairs_tested = 0;
  std::uint32_t largest_pair = 0;              ///< baskets with the most frequent pair, listed or not
  mining::ItemSets sets;                       ///< the sets to list
  std::vector<mining::Association> set_tests;  ///< of these
  std::vector<ItemRule> rules;
  bool has_margins = false;

  [[nodiscard]] double size() const { return static_cast<double>(baskets.size()); }
  [[nodiscard]] double count(std::uint32_t code) const { return baskets.counts[code]; }
  [[nodiscard]] static double lift(const ItemPair& pair) { return pair.both / pair.test.expected; }
  [[nodiscard]] static bool is_found(const ItemPair& pair) {
    return pair.test.q <= statistics::kFalseDiscovery && lift(pair) > 1;
  }
  [[nodiscard]] double lift_of_set(std::size_t set) const {
    return sets.baskets(set) / set_tests[set].expected;
  }
  [[nodiscard]] bool is_found_set(std::size_t set) const {
    return set_tests[set].q <= statistics::kFalseDiscovery && lift_of_set(set) > 1;
  }
  /// Items in at least so many baskets.
  [[nodiscard]] std::uint64_t items_of_sets(std::uint32_t least_baskets) const;
  /// Sets of so many frequent items; with the requested one, if there is one.
  [[nodiscard]] std::uint64_t sets_that_could_be(std::size_t items) const;
  [[nodiscard]] analysis::ItemLabels names() const { return {input.daybook, key, item}; }
  [[nodiscard]] std::string title(std::uint32_t code) const { return names().title(code); }
};

/// See ask(). Errors: usage, also if there are too many sets; data, if no basket has two items.
[[nodiscard]] OrError<Counts> count(const analysis::QuestionInput& input, const Options& options);

}  // namespace pear::together
