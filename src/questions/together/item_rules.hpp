// Rules: baskets with some items also contain another.
#pragma once

#include <vector>

#include "mining/association.hpp"
#include "questions/together/counts.hpp"

namespace pear::together {

/// Finds the rules to list, from every mined set and every item of it, the significant ones first. `tested`:
/// by set, against the null model. q values are over all rules of as many items that could be frequent; those
/// that are not have a p value of 1.
void find_rules(Counts& counts, const mining::ItemSets& mined,
                const std::vector<mining::Association>& tested);

}  // namespace pear::together
