// Builds a daybook from sales lines in any order.
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

/// A column that the intake file assigns to a level although some members have several values of it.
struct SettledColumn {
  std::string column;
  Level level = Level::customer;
  std::uint64_t members = 0;  ///< with several values; the latest one is kept
};

/// A daybook, and what was decided while it was built.
struct BuiltDaybook {
  Daybook daybook;
  std::uint64_t orders_with_two_dates = 0;  ///< the order keeps the earliest date
  std::uint64_t shared_order_ids = 0;       ///< the id means one order of each customer who has it
  std::vector<NearMiss> near_misses;
  std::vector<SettledColumn> settled;
};

/// Sorts and nests the lines, and assigns columns to levels. Error: more lines than a daybook can hold (2^32
/// - 2). Memory: about 12 bytes a line and one column at a time, in addition to the table, which is consumed.
[[nodiscard]] OrError<BuiltDaybook> build_daybook(LineTable table);

}  // namespace pear::daybook
