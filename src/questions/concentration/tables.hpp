// The tables of concentration.
#pragma once

#include <string>

#include "questions/concentration/counts.hpp"
#include "result/table.hpp"

namespace pear::concentration {

/// A row for each ranked member.
[[nodiscard]] result::Table ranking_table(const Counts& counts);
/// A row for each class: A, B, C.
[[nodiscard]] result::Table classes_table(const Counts& counts);
/// A row for each group: its concentration.
[[nodiscard]] result::Table summary_table(const Counts& counts, const RankedGroups& groups,
                                          const std::string& part);

}  // namespace pear::concentration
