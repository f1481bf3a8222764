// What a look at raw data found, as a result like any other.
#pragma once

#include "intake/inspection.hpp"
#include "result/result.hpp"

namespace pear {

/// A table of columns for each source, what is suspicious, how sources join, at which level the other columns
/// stand; questions as notes.
[[nodiscard]] Result report_inspection(const Inspection& inspection);

}  // namespace pear
