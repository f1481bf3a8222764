// From sales lines in any order to a daybook.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "daybook/line_table.hpp"

namespace pear::daybook {

/// A column that is constant for nearly all members of a level: at least 99%, but not all.
struct NearMiss {
  std::string column;
  Level level = Level::customer;
  Level kept_at = Level::line;
  double share = 0;  ///< of the members
};

/// A column that was put to a level although some members have several values of it.
struct SettledColumn {
  std::string column;
  Level level = Level::customer;
  std::uint64_t members = 0;  ///< with several values; the latest counts
};

/// A daybook, and what had to be decided to make one of the lines.
struct BuiltDaybook {
  Daybook daybook;
  std::uint64_t orders_with_two_dates = 0;  ///< the earliest date counts for the whole order
  std::uint64_t shared_order_ids = 0;       ///< the id stands for one order of each customer who has it
  std::vector<NearMiss> near_misses;
  std::vector<SettledColumn> settled;
};

/// Sorts, nests and settles columns at their levels. Error: more lines than a daybook can hold (2^32 - 2).
/// Memory: beside the table about 12 bytes a line and one column at a time; the table is used up.
[[nodiscard]] OrError<BuiltDaybook> build_daybook(LineTable table);

}  // namespace pear::daybook
