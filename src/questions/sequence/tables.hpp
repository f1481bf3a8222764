// The tables of sequence.
#pragma once

#include "questions/sequence/counts.hpp"
#include "result/table.hpp"

namespace pear::sequence {

[[nodiscard]] result::Table sequences_table(const Counts& counts);
/// A row for each pair.
[[nodiscard]] result::Table transitions_table(const Counts& counts);
/// For the pairs of the headline, the share having bought by day.
[[nodiscard]] result::Table timing_table(const Counts& counts);

}  // namespace pear::sequence
