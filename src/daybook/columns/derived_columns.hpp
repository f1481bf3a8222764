// Columns derived from other columns.
#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "daybook/daybook.hpp"

namespace pear::daybook {

/// All derived columns that exist, in any daybook.
[[nodiscard]] const std::vector<std::string_view>& derived_names();

/// The names of the columns of a daybook that stores those given (ids among them), with those derived from
/// them:
/// - of the line: cost = quantity x unit_cost, rounded half away from zero to four places; margin = amount -
/// cost; both
///   are empty where the cost is not known or out of range;
/// - of the order: year, quarter ("2024-Q3"), month ("2024-09"), month_of_year, week (ISO 8601, "2024-W36"),
/// weekday
///   ("1 Mon" to "7 Sun"), hour;
/// - of the customer: see history_columns.hpp;
/// - along the customer's history, of orders and lines: see order_history.hpp.
/// A stored column takes precedence over a derived one of the same name.
[[nodiscard]] std::vector<std::string> known_columns(std::vector<std::string> stored);

/// The stored columns that must be loaded to provide `names`: themselves, and the inputs of derived ones.
[[nodiscard]] std::vector<std::string> inputs_of(const std::vector<std::string>& names);

/// The daybook with its data_end, and with those of the derived columns `names` whose inputs it has loaded.
/// They are computed from the whole daybook passed in: complete first, then select. O(members).
[[nodiscard]] Daybook completed(Daybook daybook, const std::vector<std::string>& names);

/// The margins of lines, in units of Decimal, kEmptyUnits where unknown. Empty if the daybook has no margin
/// column, or knows not one margin. O(lines) at most.
[[nodiscard]] std::span<const std::int64_t> known_margins(const Daybook& daybook);

}  // namespace pear::daybook
