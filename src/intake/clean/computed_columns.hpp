// Columns that the intake file computes from those of a source.
#pragma once

#include <vector>

#include "base/error.hpp"
#include "intake/clean/intake_log.hpp"
#include "intake/plan/intake_plan.hpp"
#include "intake/read/raw_table.hpp"

namespace pear::intake {

/// Adds the columns one after another, so that an expression may use those before it; a column of the same
/// name is replaced. A row without a value for a role that needs one, or whose value for a role cannot be
/// computed (a division by zero, a text that is no number), is rejected; other columns are empty there, which
/// is noted. Lines get their amounts again. Errors: data, naming the column, for an expression that does not
/// fit the table, and for the wrong type of a role. O(rows) each.
[[nodiscard]] OrError<void> compute_columns(const std::vector<ComputedColumn>& computed, RawTable& table,
                                            IntakeLog& log);

}  // namespace pear::intake
