// Pairs of items, tested.
#pragma once

#include "mining/association.hpp"
#include "questions/together/counts.hpp"

namespace pear::together {

/// Finds the pairs to list, with their tests and amounts. q values are over all pairs of items that are
/// frequent enough for a frequent pair, whether they occur together or not: all that occur have a p value.
/// With a requested item, over all its pairs. `mined` and `rare`: the pairs in as many baskets as the support
/// requires, among other sets, and in fewer.
void find_pairs(Counts& counts, const mining::AssociationTests& tests, const mining::ItemSets& mined,
                const mining::ItemSets& rare);

}  // namespace pear::together
