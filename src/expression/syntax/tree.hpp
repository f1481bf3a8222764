// Expressions as they were written, before they meet a daybook.
#pragma once

#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"
#include "expression/syntax/node.hpp"

namespace pear::expression {

/// An aggregate OVER a partition: a column to be computed over the whole daybook, before all else.
struct Window {
  std::string name;  ///< its text, which is the column's name
  Node aggregate;
};

struct Tree {
  std::string text;             ///< as it was written
  std::string name;             ///< what it is to be called: the name behind AS, or the text
  Node root;                    ///< each window in it is a column of its name
  std::vector<Window> windows;  ///< inner ones before those that hold them
};

struct SortKey {
  Tree tree;
  bool descending = false;
};

/// The columns that it names, in windows too; the ready figures (see ready_figure) are no columns.
[[nodiscard]] std::set<std::string> columns_of(const Tree& tree);

/// Error: usage, for a name that is not among those known, with a suggestion.
[[nodiscard]] OrError<void> check_names(const Tree& tree, const std::vector<std::string>& known);

[[nodiscard]] bool has_aggregate(const Node& node);

/// What `orders`, `customers`, `products` and `lines` stand for, as an aggregate; empty for other names. An
/// order of returns alone is not an order.
[[nodiscard]] std::string_view ready_figure(std::string_view name);
[[nodiscard]] std::vector<std::string> ready_figures();

}  // namespace pear::expression
