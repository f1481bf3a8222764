// Counts the population of a daybook.
#pragma once

#include <string>

#include "daybook/daybook.hpp"
#include "result/result.hpp"

namespace pear::analysis {

/// O(lines), on all threads. Needs the columns is_return and order_date; the amount is only given if the
/// amounts of lines are loaded.
[[nodiscard]] result::Population population_of(const daybook::Daybook& daybook);

/// What follows from the population being a sample of the shop's customers.
[[nodiscard]] std::string sample_note(const result::Population& population);

}  // namespace pear::analysis
