// Counting who and what a daybook holds.
#pragma once

#include "daybook/daybook.hpp"
#include "result/result.hpp"

namespace pear {

/// O(lines), on all threads. Needs the columns is_return and order_date; the amount of lines is
/// told where it is loaded.
[[nodiscard]] Population population_of(const Daybook& daybook);

}  // namespace pear
