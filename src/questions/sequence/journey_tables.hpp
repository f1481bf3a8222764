// The tables of a journey.
#pragma once

#include "questions/sequence/journey.hpp"
#include "result/table.hpp"

namespace pear::sequence {

/// A row for each flow.
[[nodiscard]] result::Table flows_table(const Journey& journey);
/// A row for each step and item: how many reached it, and how many of these had no further step.
[[nodiscard]] result::Table steps_table(const Journey& journey);

}  // namespace pear::sequence
