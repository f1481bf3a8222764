// Counting who and what a daybook holds.
#pragma once

#include "daybook/daybook.hpp"
#include "result/result.hpp"

namespace pear::analysis {

/// O(lines), on all threads. Needs the columns is_return and order_date; the amount of lines is
/// known where it is loaded.
[[nodiscard]] result::Population population_of(const daybook::Daybook& daybook);

}  // namespace pear::analysis
