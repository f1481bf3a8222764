// Columns derived from a day: its year, quarter, month, week and weekday.
#pragma once

#include <cstdint>
#include <span>

#include "daybook/column.hpp"

namespace pear::daybook {

// One value for each of the days; empty where the day is (kEmptyDays). Each distinct day is computed once;
// O(days).
[[nodiscard]] DecimalValues years_of(std::span<const std::int32_t> days);
[[nodiscard]] TextValues quarters_of(std::span<const std::int32_t> days);  ///< "2024-Q3"
[[nodiscard]] TextValues months_of(std::span<const std::int32_t> days);    ///< "2024-09"
[[nodiscard]] DecimalValues months_of_year_of(std::span<const std::int32_t> days);
[[nodiscard]] TextValues weeks_of(std::span<const std::int32_t> days);     ///< ISO 8601, "2024-W36"
[[nodiscard]] TextValues weekdays_of(std::span<const std::int32_t> days);  ///< "1 Mon" to "7 Sun"

}  // namespace pear::daybook
