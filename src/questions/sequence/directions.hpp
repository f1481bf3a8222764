// Whether customers first buy one item before another more often than their first purchases of each explain.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "mining/first_purchases.hpp"
#include "mining/purchase_histories.hpp"
#include "questions/sequence/transitions.hpp"

namespace pear::sequence {

/// One pair that occurs, with its numbers of customers.
struct PairCount {
  static constexpr double kScale = 1 << 24;  ///< of `expected`, which is whole so that no order matters
  std::uint32_t later = 0, customers = 0;
  std::uint32_t one_way = 0;   ///< whose first purchase of `later` is after that of the other, on another day
  std::uint64_t expected = 0;  ///< of one_way and other_way customers, if neither item triggers the other
};
/// By earlier item, in order of the later one.
using PairCounts = std::vector<std::vector<PairCount>>;

/// Sets the expected numbers of all pairs with one-way customers: for each of them, the probability of their
/// order by the model. O(pairs of items of each customer x visits) on all threads; the same for any number
/// of them.
void expect_directions(const mining::Histories& histories, const mining::FirstPurchases& model,
                       PairCounts& counts);

/// Tests all pairs that enough customers bought on different days: once for both rows of a pair.
void test_directions(const PairCounts& counts, std::uint32_t least, std::optional<std::uint32_t> about,
                     Transitions& found);

}  // namespace pear::sequence
