// The work of Expression: one node over one block of rows.
#pragma once

#include "expression/rows/row_view.hpp"
#include "expression/rows/values.hpp"
#include "expression/syntax/node.hpp"

namespace pear::expression {

/// The node's types must have been checked. Rows [begin, end) of the view.
[[nodiscard]] Values evaluate_node(const Node& node, const RowView& view, std::size_t begin, std::size_t end);

}  // namespace pear::expression
