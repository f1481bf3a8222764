// The tables of distinct.
#pragma once

#include "base/error.hpp"
#include "questions/distinct/counts.hpp"
#include "result/table.hpp"

namespace pear::distinct {

[[nodiscard]] result::Table main_table(const Counts& counts);

/// How many rows of the main table have each number.
[[nodiscard]] result::Table distribution_table(const Counts& counts);

/// The values that were counted. Error: data, if an amount is out of the range of Decimal.
[[nodiscard]] OrError<result::Table> members_table(const Counts& counts);

}  // namespace pear::distinct
