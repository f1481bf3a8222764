// Finds duplicate rows.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "intake/plan/intake_plan.hpp"
#include "intake/read/raw_table.hpp"

namespace pear::intake {

/// A row of a group of duplicates.
struct DuplicateRow {
  TableKind table = TableKind::lines;
  std::uint64_t group = 0;  ///< from 1, over all rules
  std::uint64_t rank = 0;   ///< 1 is the row that is kept
  std::string source;
  std::uint64_t line = 0;
  std::string same;      ///< the values that are equal in all rows of the group
  std::string by;        ///< the value that the rule sorts by, if it does
  std::size_t rule = 0;  ///< of the plan's rules
};

/// Finds the rows for which the rule's expressions `same` give equal values, and drops all but one of each
/// group: keeps the first or last by the rule's order, or by position in the sources if that is equal. A row
/// for which one of the expressions is empty has no duplicates. Adds to `found` under the rule's number, and
/// to the row counts of the table's sources. Errors: data, for an expression that is wrong.
[[nodiscard]] OrError<void> drop_duplicates(const DuplicateRule& rule, std::size_t number, RawTable& table,
                                            std::vector<DuplicateRow>& found);

}  // namespace pear::intake
