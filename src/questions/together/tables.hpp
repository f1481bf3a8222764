// The tables of together.
#pragma once

#include "questions/together/counts.hpp"
#include "result/table.hpp"

namespace pear::together {

[[nodiscard]] result::Table pairs_table(const Counts& counts);
[[nodiscard]] result::Table sets_table(const Counts& counts);
[[nodiscard]] result::Table rules_table(const Counts& counts);
/// A row for each item: its baskets, and how many contain nothing else.
[[nodiscard]] result::Table items_table(const Counts& counts);

}  // namespace pear::together
