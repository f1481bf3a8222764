// From joined raw tables to the lines that a daybook is built from.
#pragma once

#include <string>

#include "base/error.hpp"
#include "daybook/line_table.hpp"
#include "intake/join/joined_lines.hpp"

namespace pear::intake {

/// The lines as a LineTable, and their currency. Consumes the tables. Errors: data, for two currencies, or
/// one that is not the shop's; for a wrong return condition; for a level that names no column.
struct PreparedLines {
  daybook::LineTable table;
  std::string currency;
};
[[nodiscard]] OrError<PreparedLines> to_line_table(const IntakePlan& plan, JoinedLines lines);

}  // namespace pear::intake
