// The tables of baskets.
#pragma once

#include "questions/baskets/counts.hpp"
#include "result/table.hpp"

namespace pear::baskets {

/// A row for each set of distinct items that forms a basket.
[[nodiscard]] result::Table compositions_table(const Counts& counts);
[[nodiscard]] result::Table basket_sizes_table(const Counts& counts);
/// A row for each item: its own value, the value of the rest of its baskets, its pull.
[[nodiscard]] result::Table pull_table(const Counts& counts);

}  // namespace pear::baskets
