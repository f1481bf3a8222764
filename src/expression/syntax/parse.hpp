// Text to tree.
#pragma once

#include <string_view>
#include <vector>

#include "base/error.hpp"
#include "expression/syntax/node.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::expression {

/// Reads an expression of the subset of ISO/IEC 9075-2 (SQL) that docs/expressions.md tells.
/// Errors of all: usage, saying from which column on the text is not understood.
[[nodiscard]] OrError<Node> parse_expression(std::string_view text);
/// The same as it was written, with its windows apart.
[[nodiscard]] OrError<Tree> parse_tree(std::string_view text);
/// "region, year(...) AS year": several, each with a name.
[[nodiscard]] OrError<std::vector<Tree>> parse_list(std::string_view text);
/// "sales DESC, region"
[[nodiscard]] OrError<std::vector<SortKey>> parse_sort(std::string_view text);

}  // namespace pear::expression
