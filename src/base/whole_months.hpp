// Months between days.
#pragma once

#include <cstdint>

#include "base/date.hpp"

namespace pear {

/// Whole months from one day to a later one: 0 until the day before the same day of the next month. From the
/// 31st to the end of a shorter month is not a whole month.
[[nodiscard]] std::int32_t whole_months_between(Date from, Date to);

/// The same day so many months before, or the last day of a shorter month. The last day of a month gives the
/// last day of the other.
[[nodiscard]] Date months_before(Date day, std::int32_t months);

}  // namespace pear
