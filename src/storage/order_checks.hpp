// The order that a daybook promises, checked.
#pragma once

#include "base/error.hpp"
#include "daybook/daybook.hpp"

namespace pear::storage {

/// Ids and the texts of each column are distinct and in natural order, a customer's orders are in order of
/// (date, time of day, id), and an order's lines in order of product. Needs all columns. Error: data, without
/// the file. O(daybook).
[[nodiscard]] OrError<void> check_order(const daybook::Daybook& daybook);

}  // namespace pear::storage
