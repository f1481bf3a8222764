// The findings of an inspection, as a result like any other.
#pragma once

#include "intake/inspect/inspection.hpp"
#include "result/result.hpp"

namespace pear::intake {

/// A table of columns for each source, what is suspicious, how sources join, and the level of the other
/// columns; questions as notes.
[[nodiscard]] result::Result report_inspection(const Inspection& inspection);

}  // namespace pear::intake
