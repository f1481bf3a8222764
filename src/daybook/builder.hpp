// From sales lines in any order to a daybook.
#pragma once

#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "daybook/line_table.hpp"

namespace pear {

/// A daybook, and what had to be decided to make one of the lines.
struct BuiltDaybook {
  Daybook daybook;
  std::uint64_t orders_with_two_dates = 0;  ///< the earliest date counts for the whole order
  std::uint64_t shared_order_ids = 0;       ///< the id stands for one order of each customer who has it
};

/// Sorts, nests and settles columns at their levels. Error: more lines than a daybook can hold (2^32 - 2).
/// Memory: beside the table about 12 bytes a line and one column at a time; the table is used up.
[[nodiscard]] OrError<BuiltDaybook> build_daybook(LineTable table);

}  // namespace pear
