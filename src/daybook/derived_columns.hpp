// Columns that follow from others.
#pragma once

#include <vector>

#include "daybook/daybook.hpp"

namespace pear {

/// Those of cost, margin (of the line), year, quarter ("2024-Q3"), month ("2024-09"), month_of_year, week
/// (ISO 8601, "2024-W36"), weekday ("1 Mon" to "7 Sun") and hour (of the order) whose inputs the daybook has
/// loaded. cost = quantity x unit_cost, rounded half away from zero to four places; margin = amount - cost;
/// both are empty where the cost is not known or out of range. O(members).
[[nodiscard]] std::vector<Column> derived_columns(const Daybook& daybook);

}  // namespace pear
