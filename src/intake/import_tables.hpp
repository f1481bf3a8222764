// The tables of the import report.
#pragma once

#include <vector>

#include "intake/import.hpp"
#include "result/table.hpp"

namespace pear::intake {

/// How the rows of each source were used, and the amounts of its lines.
[[nodiscard]] result::Table rows_table(const std::vector<SourceAccount>& sources);
[[nodiscard]] result::Table amounts_table(const std::vector<SourceAccount>& sources);
[[nodiscard]] result::Table reasons_table(const std::vector<RejectReason>& reasons);
[[nodiscard]] result::Table exclusions_table(const std::vector<ExclusionTally>& excluded);
[[nodiscard]] result::Table cleaning_table(const std::vector<CleaningTally>& cleaned);
[[nodiscard]] result::Table joins_table(const std::vector<JoinCount>& joins);
[[nodiscard]] result::Table unmatched_table(const std::vector<UnmatchedKey>& unmatched);
[[nodiscard]] result::Table duplicates_table(const std::vector<DuplicateRow>& duplicates);
[[nodiscard]] result::Table changed_customers_table(const std::vector<ChangedCustomer>& changes);
[[nodiscard]] result::Table shared_table(const Imported& imported);
[[nodiscard]] result::Table ungrouped_table(const std::vector<UngroupedValue>& ungrouped);

}  // namespace pear::intake
