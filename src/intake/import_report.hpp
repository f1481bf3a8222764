// The report of an import, as a result like any other.
#pragma once

#include <string>

#include "base/error.hpp"
#include "intake/import.hpp"
#include "result/result.hpp"

namespace pear::intake {

/// Headline, reconciliation of rows and amounts source by source (checked), joins, cleaning, and the lists of
/// duplicates, unmatched keys, changed customers, shared names and values without group.
[[nodiscard]] result::Result report_import(const Imported& imported, const result::Population& population);

/// Only the duplicates, to check them before anything is dropped.
[[nodiscard]] result::Result report_duplicates(const std::vector<DuplicateRow>& duplicates);

/// The counts that the daybook file keeps.
[[nodiscard]] std::vector<daybook::CleaningCount> cleaning_counts(const Imported& imported);

}  // namespace pear::intake
