// Checks the names and types of an expression.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "expression/rows/row_view.hpp"
#include "expression/syntax/node.hpp"

namespace pear::expression {

[[nodiscard]] ValueType value_type(const daybook::ColumnValues& values);

/// Finds each column and determines each type, in place. Errors: usage, naming the columns.
[[nodiscard]] OrError<void> check_types(Node& node, const RowView& view);

/// "there is no column "regio". Did you mean "region"?"
[[nodiscard]] tl::unexpected<Error> unknown_column(const Node& node, const std::vector<std::string>& known);

/// "\"region\" is text", "the number 5 is ...": how a message names a part.
[[nodiscard]] std::string described(const Node& node);
/// "text", "a number", "a date", "a time of day", "a condition".
[[nodiscard]] std::string_view described(ValueType type);

}  // namespace pear::expression
