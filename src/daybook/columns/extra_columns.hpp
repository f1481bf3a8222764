// Further columns of the lines: their types and levels.
#pragma once

#include "daybook/builder.hpp"
#include "daybook/daybook.hpp"
#include "daybook/line_table.hpp"

namespace pear::daybook {

/// The type of a column of texts: numbers or dates if all texts are, in the sense of with_inferred_type().
[[nodiscard]] ColumnType inferred_type(const TextArray& texts);
/// The values of texts that are all numbers (units of Decimal), or all days.
[[nodiscard]] std::vector<std::int64_t> numbers_of(const TextArray& texts);
[[nodiscard]] std::vector<std::int32_t> days_of(const TextArray& texts);

/// Converts text to numbers or days where every filled value is a decimal in plain form (no leading zeros or
/// plus sign, so article numbers and post codes stay text) or an ISO date. Sorts the dictionary of a column
/// that stays text in natural order.
[[nodiscard]] ColumnValues with_inferred_type(TextValues text);

/// Assigns the column to the first of its candidate levels for which it is constant, otherwise to the lines.
/// Notes in `built` if it was nearly constant, or if the level was forced. Its values must already be in the
/// order of the daybook's lines. An empty value is a value like any other.
[[nodiscard]] Column at_its_level(CandidateColumn candidate, const DaybookParts& parts, BuiltDaybook& built);

}  // namespace pear::daybook
