// The tables of the import report.
#pragma once

#include <vector>

#include "intake/import.hpp"
#include "result/table.hpp"

namespace pear {

/// What became of the rows of each source, and of the amounts of its lines.
[[nodiscard]] Table rows_table(const std::vector<SourceAccount>& sources);
[[nodiscard]] Table amounts_table(const std::vector<SourceAccount>& sources);
[[nodiscard]] Table reasons_table(const std::vector<RejectReason>& reasons);
[[nodiscard]] Table cleaning_table(const std::vector<CleaningTally>& cleaned);
[[nodiscard]] Table joins_table(const std::vector<JoinCount>& joins);
[[nodiscard]] Table unmatched_table(const std::vector<UnmatchedKey>& unmatched);
[[nodiscard]] Table duplicates_table(const std::vector<DuplicateRow>& duplicates);
[[nodiscard]] Table changed_customers_table(const std::vector<ChangedCustomer>& changes);
[[nodiscard]] Table shared_table(const std::vector<SharedValue>& names,
                                 const std::vector<SharedValue>& emails);
[[nodiscard]] Table ungrouped_table(const std::vector<UngroupedValue>& ungrouped);

}  // namespace pear
