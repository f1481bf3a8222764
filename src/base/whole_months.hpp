// Months between days.
#pragma once

#include <cstdint>

#include "base/date.hpp"

namespace pear {

/// Whole months from one day to a later one: 0 until the day before the same day of the next month. From the
/// 31st to the end of a shorter month is not a whole month.
[[nodiscard]] std::int32_t whole_months_between(Date from, Date to);

}  // namespace pear
