// together, computed in a database.
#pragma once

#include "pushdown/questions/answer.hpp"

namespace pear::pushdown {

/// Pairs, and rules of two items, as with --largest 2. The pairs of frequent items are sent, with what the
/// null model needs of each period: items by baskets, and sizes of baskets.
[[nodiscard]] Answer answer_together;

}  // namespace pear::pushdown
