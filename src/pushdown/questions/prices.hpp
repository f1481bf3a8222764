// prices in a database: products, customers, and pairs of the two within bounds.
#pragma once

#include "pushdown/questions/answer.hpp"

namespace pear::pushdown {

/// Without the tests of volume, which compare single orders with others of their time. Six statements or
/// fewer, each of which groups by customer and product first.
Answer answer_prices;

}  // namespace pear::pushdown
