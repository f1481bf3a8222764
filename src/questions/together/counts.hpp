// The counts of together: pairs, sets and rules of items that baskets contain together.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <utility>
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

/// All baskets, added up.
struct BasketTotals {
  std::uint64_t baskets = 0;
  std::uint64_t items = 0;                 ///< of each basket
  std::uint64_t single = 0;                ///< baskets of one item
  std::vector<std::uint32_t> counts;       ///< by code, how many baskets contain it
  std::vector<std::uint32_t> single_item;  ///< by code, how many contain nothing else

  [[nodiscard]] std::uint64_t size() const { return baskets; }
};

/// What was mined from the baskets.
struct MinedSets {
  mining::ItemSets frequent;  ///< of up to --largest items, in as many baskets as the support requires
  mining::ItemSets rare;      ///< pairs of frequent items that occur, in fewer baskets
  mining::ItemSets
      companions;  ///< the pairs with the requested item, if there is one, in any number of baskets
};

/// Everything that together computes.
struct Counts {
  const analysis::QuestionInput& input;  ///< borrowed
  Options options;
  expression::GroupKey key;
  std::string item;  ///< "product"
  BasketTotals baskets;
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

/// Adds to each pair the amounts and margins of the two over the baskets with both.
using AddAmounts = std::function<OrError<void>(std::vector<ItemPair>& pairs)>;

/// Counts of these options and baskets, before anything is mined. Errors: usage, for an item that is not
/// there; data, if no basket has two items.
[[nodiscard]] OrError<Counts> of_baskets(const analysis::QuestionInput& input, const Options& options,
                                         std::pair<expression::GroupKey, std::string> items,
                                         BasketTotals baskets);
/// An error of usage: the requested item is not in the selection.
[[nodiscard]] tl::unexpected<Error> in_no_basket(const std::string& item, const BasketTotals& baskets);
/// The least support, if none was requested: 1 in 1,000 baskets, but at least 5. The caller doubles it while
/// more than this many pairs reach it.
constexpr std::size_t kMostPairs = 20'000;
[[nodiscard]] std::uint32_t usual_support(const Counts& counts);
/// More sets reach the support than --at-most allows; with `fits`, fewer do.
[[nodiscard]] Error too_many_sets(const Counts& counts, std::uint32_t fits);
/// Completes the counts: tests, pairs, sets, rules.
[[nodiscard]] OrError<void> find_together(Counts& counts, const MinedSets& mined,
                                          const mining::AssociationTests& tests,
                                          const AddAmounts& add_amounts);

/// See ask(). Errors: usage, also if there are too many sets; data, if no basket has two items.
[[nodiscard]] OrError<Counts> count(const analysis::QuestionInput& input, const Options& options);

}  // namespace pear::together
