// The sources of a plan, opened and checked before any row is read.
#pragma once

#include <vector>

#include "base/error.hpp"
#include "intake/plan/intake_plan.hpp"
#include "intake/read/read_table.hpp"

namespace pear::intake {

/// By TableKind, one for each [[TABLE.from]].
using OpenTables = std::vector<std::vector<OpenTable>>;

/// Errors: those of open_table; data, for a role that an import needs and no column has.
[[nodiscard]] OrError<OpenTables> open_tables(const IntakePlan& plan);

}  // namespace pear::intake
