// Pairs of items, tested.
#pragma once

#include <cstdint>
#include <vector>

#include "mining/association.hpp"
#include "mining/baskets.hpp"
#include "mining/frequent_itemsets.hpp"
#include "questions/together/counts.hpp"

namespace pear::together {

/// Finds the pairs to list, with their tests. q values are over all pairs of items that are frequent enough
/// for a frequent pair, whether they occur together or not: all that occur have a p value. With a requested
/// item, over all its pairs.
void find_pairs(Counts& counts, const mining::AssociationTests& tests, const MinedSets& mined);

/// The pairs with an item, in any number of baskets.
[[nodiscard]] mining::ItemSets companions_of(const mining::Baskets& baskets, std::uint32_t item);

/// Sums of both items over the baskets with both, from the lines of the daybook.
void add_amounts(const Counts& counts, std::vector<ItemPair>& pairs);

}  // namespace pear::together
