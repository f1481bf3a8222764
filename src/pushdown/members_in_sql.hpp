// The customers and products of lines in a database.
#pragma once

#include <string>

#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "pushdown/grouped_lines.hpp"

namespace pear::pushdown {

/// A daybook without orders and lines: the customers, the products, or both of the selected lines, with their
/// columns of the schema; of those in another query than pear_lines, too. One statement for each. Errors: io
/// and data.
[[nodiscard]] OrError<daybook::Daybook> members_of(const SelectedLines& lines, bool customers, bool products,
                                                   const std::string& from = "pear_lines");

/// The id of the product that an option names by its id, its name or a part of either. Others must not have
/// it, whether they are in the selection or not. One statement. Errors: usage, io and data.
[[nodiscard]] OrError<std::string> find_product(const SelectedLines& lines, const std::string& text);

}  // namespace pear::pushdown
