// The account that an import gives of itself, as a result like any other.
#pragma once

#include "base/error.hpp"
#include "intake/import.hpp"
#include "result/result.hpp"

namespace pear {

/// Headline, reconciliation of rows and amounts (checked), reasons for rejection, columns by level.
[[nodiscard]] Result report_import(const Imported& imported, const Population& population);

/// The counts that the daybook file keeps.
[[nodiscard]] std::vector<CleaningCount> cleaning_counts(const Imported& imported);

}  // namespace pear
