// Puts sales lines into the order of a daybook.
#pragma once

#include <cstdint>
#include <vector>

#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "daybook/line_table.hpp"

namespace pear::daybook {

/// Lines sorted and nested, before their further columns have types and levels.
struct NestedLines {
  DaybookParts parts;  ///< with the columns order_date, order_time (if there are times) and is_return
  std::vector<CandidateColumn> columns;       ///< the further ones, still in the order of the table
  std::vector<std::uint32_t> line_positions;  ///< per line of the daybook: its position in the table
  std::uint64_t orders_with_two_dates = 0;
  std::uint64_t shared_order_ids = 0;
};

/// Consumes the table. Error: more lines than a daybook can hold (2^32 - 2). Memory: about 12 bytes a line in
/// addition to the table.
[[nodiscard]] OrError<NestedLines> nest_lines(LineTable table);

/// Values of lines, from the order of the table to that of the daybook. O(lines), on all threads.
void put_in_line_order(ColumnValues& values, const std::vector<std::uint32_t>& line_positions);

}  // namespace pear::daybook
