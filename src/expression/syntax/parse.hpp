// Text to tree.
#pragma once

#include <string_view>

#include "base/error.hpp"
#include "expression/syntax/node.hpp"

namespace pear::expression {

/// Reads an expression of the subset of ISO/IEC 9075-2 (SQL) that docs/expressions.md tells.
/// Errors: usage, saying from which column on the text is not understood.
[[nodiscard]] OrError<Node> parse_expression(std::string_view text);

}  // namespace pear::expression
