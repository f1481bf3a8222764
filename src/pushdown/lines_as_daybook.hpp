// Lines of a database as a daybook, for what a question shows line by line.
#pragma once

#include <string>

#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "pushdown/grouped_lines.hpp"

namespace pear::pushdown {

/// The lines of a query, with all columns of the schema at their levels: what the query has of a customer's
/// history, in its order. One statement; all of its lines are sent. Equal lines of an order are in the order
/// of their texts. Errors: io and data.
[[nodiscard]] OrError<daybook::Daybook> lines_as_daybook(const SelectedLines& lines, const std::string& from);

}  // namespace pear::pushdown
