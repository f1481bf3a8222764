// Columns that come along with the lines: what type they are, and at which level they belong.
#pragma once

#include "daybook/builder.hpp"
#include "daybook/daybook.hpp"
#include "daybook/line_table.hpp"

namespace pear::daybook {

/// Text that is really numbers or days becomes so: every filled value must be a decimal as one writes it
/// (no leading zeros or plus sign, so that article numbers and post codes stay text), or an ISO date.
/// The dictionary of a column that stays text is put in natural order.
[[nodiscard]] ColumnValues with_inferred_type(TextValues text);

/// The column at the first of its candidate levels for which it is constant, otherwise at the lines; what was
/// nearly so, or forced, is noted in `built`. Its values stand in the order of the daybook's lines already.
/// An empty value is a value like any other.
[[nodiscard]] Column at_its_level(CandidateColumn candidate, const DaybookParts& parts, BuiltDaybook& built);

}  // namespace pear::daybook
