// What a look at raw data found, as a result like any other.
#pragma once

#include "intake/inspect/inspection.hpp"
#include "result/result.hpp"

namespace pear::intake {

/// A table of columns for each source, what is suspicious, how sources join, at which level the other columns
/// stand; questions as notes.
[[nodiscard]] result::Result report_inspection(const Inspection& inspection);

}  // namespace pear::intake
