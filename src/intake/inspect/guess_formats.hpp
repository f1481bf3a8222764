// The formats of numbers and dates in a table.
#pragma once

#include <vector>

#include "intake/inspect/guess.hpp"

namespace pear::intake {

/// Whether the column's values are of this kind, except for a tenth that may be wrong and will be rejected.
/// Numbers may also be dates: 20240131, or a spreadsheet's serial number.
[[nodiscard]] bool holds(const ColumnProfile& column, ColumnKind kind);

/// Determines the table's date formats and number format from its columns; adds what the values leave open to
/// the questions.
void guess_formats(GuessedTable& table, const SourceProfile& source, std::vector<OpenQuestion>& questions);

}  // namespace pear::intake
