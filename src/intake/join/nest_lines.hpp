// From joined raw tables to the lines that a daybook is built from.
#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <vector>

#include "base/decimal.hpp"
#include "base/error.hpp"
#include "daybook/line_table.hpp"
#include "intake/join/joined_lines.hpp"

namespace pear::intake {

/// The lines as a LineTable, and how many lines are in each currency. Consumes the tables. Errors: data, for
/// a wrong return condition; for a level that names no column.
struct PreparedLines {
  daybook::LineTable table;
  std::map<std::string, std::uint64_t> currencies;
  std::vector<std::string>
      master;                ///< columns from lists of customers and products, or of a level that was set
  std::uint64_t turned = 0;  ///< returns by the condition that had a positive quantity and amount
  DecimalSum turned_amount;  ///< of these, as it is now: negative
  std::uint64_t fees = 0;    ///< lines by the condition
  DecimalSum fee_amount;
};
[[nodiscard]] OrError<PreparedLines> to_line_table(const IntakePlan& plan, JoinedLines lines);

/// The currency of all lines: that of the plan, if they have none. Error: data, for two currencies, or one
/// that is not the shop's.
[[nodiscard]] OrError<std::string> settle_currency(const IntakePlan& plan,
                                                   const std::map<std::string, std::uint64_t>& currencies);

}  // namespace pear::intake
