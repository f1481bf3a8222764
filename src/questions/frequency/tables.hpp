// The tables of frequency.
#pragma once

#include "questions/frequency/counts.hpp"
#include "result/table.hpp"

namespace pear::frequency {

/// Customers by number or band, one group after another.
[[nodiscard]] result::Table distribution_table(const Counts& counts);
/// The repeat rate and the days between orders, of each group and of all.
[[nodiscard]] result::Table summary_table(const Counts& counts);
/// The customers of each row of the distribution.
[[nodiscard]] result::Table list_table(const Counts& counts);

}  // namespace pear::frequency
