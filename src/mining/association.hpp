// Whether baskets contain items together significantly more often than expected.
#pragma once

#include <cstdint>
#include <span>
#include <utility>
#include <vector>

#include "mining/basket_null_model.hpp"
#include "mining/frequent_itemsets.hpp"

namespace pear::mining {

/// One tested combination.
struct Association {
  double expected = 0;  ///< baskets with it under the null model
  double p = 1, q = 1;
};

/// The number of sets of `size` among `items`, at most 2^63.
[[nodiscard]] std::uint64_t combinations(std::uint64_t items, std::uint64_t size);

/// Tests of combinations against the null model of baskets, with customers as clusters: the baskets of one
/// customer are not independent, since customers have tastes. Counts are divided by their design effect
/// (statistics/significance.hpp). Valid for baskets of different sizes, customers with many baskets, and
/// products that are sold only at times.
class AssociationTests {
 public:
  /// `by_period`: not if a basket is all that a customer ever bought.
  AssociationTests(const Baskets& baskets, bool by_period)
      : AssociationTests(baskets.counts, BasketNullModel(baskets, by_period)) {}
  /// `counts`: by code, how many baskets contain it.
  AssociationTests(std::vector<std::uint32_t> counts, BasketNullModel model)
      : counts_(std::move(counts)), model_(std::move(model)) {}

  /// Whether all items are independent of each other. Without q.
  [[nodiscard]] Association of_set(std::span<const std::uint32_t> codes, std::uint32_t baskets,
                                   std::uint64_t squares) const;

  struct Rule {
    std::uint32_t baskets = 0, given_baskets = 0, also_baskets = 0;
    std::uint64_t squares = 0;                ///< of the baskets with all
    double expected = 0, expected_given = 0;  ///< under the null model: with all, and with those given
  };
  /// Whether the item of a rule is independent of those given, which need not be independent of each other.
  /// Without q.
  [[nodiscard]] static Association of_rule(const Rule& rule);

  [[nodiscard]] const BasketNullModel& model() const { return model_; }

 private:
  std::vector<std::uint32_t> counts_;
  BasketNullModel model_;
};

/// By set, its test without q; of a single item, its baskets are what is expected. On all threads.
[[nodiscard]] std::vector<Association> test_sets(const AssociationTests& tests, const ItemSets& sets);

/// Sets the q values of associations. `tests`: all that were made; those that are left out have a p value
/// of 1.
void control_false_discoveries(std::span<Association* const> associations, std::uint64_t tests);

}  // namespace pear::mining
