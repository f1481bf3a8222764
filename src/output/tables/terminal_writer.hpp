// A result on a terminal.
#pragma once

#include <cstddef>
#include <string>
#include <vector>

#include "result/result.hpp"

namespace pear::output {

struct TerminalStyle {
  std::size_t width = 80;     ///< columns
  bool emphasis = false;      ///< bold headline, grey side notes (ANSI, ECMA-48)
  std::size_t top = 10;       ///< rows shown of each table
  bool top_is_asked = false;  ///< of all tables alike, instead of each table's own number
  bool wide_tables = false;   ///< tables are as wide as they need to be
};

/// Headline, population and selection, tables, notes, checks in one line, files written.
[[nodiscard]] std::string render_result(const result::Result& result, const std::string& selection,
                                        const std::vector<std::string>& files, const TerminalStyle& style);

/// Only the table. Columns that do not fit are left out, which a line reports; totals are always shown.
/// `file` is the path of the whole table.
[[nodiscard]] std::string render_table(const result::Table& table, const TerminalStyle& style,
                                       const std::string& file = "");

}  // namespace pear::output
