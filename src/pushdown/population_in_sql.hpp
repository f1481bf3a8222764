// The population of lines in a database.
#pragma once

#include <string>

#include "base/error.hpp"
#include "pushdown/session.hpp"
#include "result/result.hpp"

namespace pear::pushdown {

struct PopulationColumns {
  bool fees = false;     ///< whether lines have is_fee
  bool amounts = false;  ///< whether amounts are wanted
};

/// Of the lines of a query, such as pear_lines. One statement. Errors: io and data.
[[nodiscard]] OrError<result::Population> population_of(Session& session, const std::string& with,
                                                        const std::string& lines,
                                                        const PopulationColumns& columns);

}  // namespace pear::pushdown
