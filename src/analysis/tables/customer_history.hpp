// One customer's history, line by line.
#pragma once

#include <cstdint>
#include <vector>

#include "base/decimal.hpp"
#include "daybook/daybook.hpp"
#include "daybook/walk_lines.hpp"
#include "result/table.hpp"

namespace pear::analysis {

/// Whether a line was a first purchase, a repeat purchase or a return.
enum class LineKind : std::uint8_t { first_time, again, returned, fee };

struct HistoryLine {
  daybook::LinePlace place;
  LineKind kind = LineKind::again;
};

/// One customer's lines, and their totals.
struct CustomerHistory {
  std::uint32_t customer = 0;
  std::vector<HistoryLine> lines;
  std::vector<std::uint32_t> orders;  ///< orders, without orders that contain only returns
  std::vector<std::int64_t> days;     ///< days between each order and the next
  std::uint32_t products = 0;         ///< distinct products bought
  std::uint32_t returned_lines = 0;
  DecimalSum amount, returned;
};

/// O(lines of the customer).
[[nodiscard]] CustomerHistory history_of(const daybook::Daybook& daybook, std::uint32_t customer);

/// A row for each line, in order of time.
[[nodiscard]] result::Table history_table(const daybook::Daybook& daybook, const CustomerHistory& history);
[[nodiscard]] inline result::Table customer_history_table(const daybook::Daybook& daybook,
                                                          std::uint32_t customer) {
  return history_table(daybook, history_of(daybook, customer));
}

}  // namespace pear::analysis
