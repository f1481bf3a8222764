// How a table writes numbers and dates.
#pragma once

#include <vector>

#include "intake/inspect/guess.hpp"

namespace pear::intake {

/// Whether the column's values are of this kind, but for a tenth that may be wrong, and will be rejected.
[[nodiscard]] bool holds(const ColumnProfile& column, ColumnKind kind);

/// Settles the table's date formats and number format from what its columns hold; what no value decides is
/// added to the questions.
void guess_formats(GuessedTable& table, const SourceProfile& source, std::vector<OpenQuestion>& questions);

}  // namespace pear::intake
