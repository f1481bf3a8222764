// The population of lines in a database.
#pragma once

#include <cstdint>
#include <string>

#include "base/error.hpp"
#include "pushdown/session.hpp"
#include "result/result.hpp"

namespace pear::pushdown {

struct PopulationColumns {
  bool fees = false;     ///< whether lines have is_fee
  bool amounts = false;  ///< whether amounts are wanted
};

struct CountedLines {
  result::Population population;
  std::uint64_t orders_with_two_dates = 0;
};

/// Of the lines of a query, such as pear_lines. One statement. Errors: io and data.
[[nodiscard]] OrError<CountedLines> count_lines(Session& session, const std::string& with,
                                                const std::string& lines, const PopulationColumns& columns);

/// Rows of the lines' table, with those that lack an id, a date, a quantity or an amount. One statement.
/// Errors: io and data.
[[nodiscard]] OrError<std::uint64_t> rows_of_table(Session& session, const std::string& with);

}  // namespace pear::pushdown
