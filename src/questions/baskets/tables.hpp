// The tables of baskets.
#pragma once

#include "questions/baskets/counts.hpp"
#include "result/table.hpp"

namespace pear::baskets {

/// A row for each set of different items that is a basket.
[[nodiscard]] result::Table compositions_table(const Counts& counts);
[[nodiscard]] result::Table basket_sizes_table(const Counts& counts);
/// A row for each item: what it earns, what the rest of its baskets earns, its pull.
[[nodiscard]] result::Table pull_table(const Counts& counts);

}  // namespace pear::baskets
