// PEGTL's tree to ours. Private to the parser.
#pragma once

#include <string>

#include <tao/pegtl/contrib/parse_tree.hpp>

#include "base/error.hpp"
#include "expression/syntax/node.hpp"

namespace pear::expression {

/// Longer forms are built from shorter ones: BETWEEN from two comparisons, a simple CASE from a searched one.
/// Errors: usage, with the column of the text. The text of an aggregate with OVER is kept in Node::text.
[[nodiscard]] OrError<Node> read_node(const tao::pegtl::parse_tree::node& node);

/// Of a column_name or quoted_name.
[[nodiscard]] std::string name_of(const tao::pegtl::parse_tree::node& node);

}  // namespace pear::expression
