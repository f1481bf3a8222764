// From text to tree.
#pragma once

#include <string_view>
#include <vector>

#include "base/error.hpp"
#include "expression/syntax/node.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::expression {

/// Reads an expression of the subset of ISO/IEC 9075-2 (SQL) described in docs/expressions.md. Errors of all
/// functions: usage, with the column from which the text cannot be read.
[[nodiscard]] OrError<Node> parse_expression(std::string_view text);
/// The same as written, with its windows separated.
[[nodiscard]] OrError<Tree> parse_tree(std::string_view text);
/// "region, year(...) AS year": several expressions, each with a name.
[[nodiscard]] OrError<std::vector<Tree>> parse_list(std::string_view text);
/// "sales DESC, region"
[[nodiscard]] OrError<std::vector<SortKey>> parse_sort(std::string_view text);

}  // namespace pear::expression
