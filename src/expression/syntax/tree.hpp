// Expressions as written, before they are bound to a daybook.
#pragma once

#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "base/error.hpp"
#include "expression/syntax/node.hpp"

namespace pear::expression {

/// An aggregate OVER a partition: a column to be computed over the whole daybook, before everything else.
struct Window {
  std::string name;  ///< its text, which is the column's name
  Node aggregate;
};

struct Tree {
  std::string text;             ///< as written
  std::string name;             ///< its name: the name after AS, or the text
  Node root;                    ///< each window in it is a column of its name
  std::vector<Window> windows;  ///< inner ones before those that contain them
};

struct SortKey {
  Tree tree;
  bool descending = false;
};

/// The columns it uses, in windows too; the ready figures (see ready_figure) are not columns.
[[nodiscard]] std::set<std::string> columns_of(const Tree& tree);

/// Error: usage, for a name that is not known, with a suggestion.
[[nodiscard]] OrError<void> check_names(const Tree& tree, const std::vector<std::string>& known);

[[nodiscard]] bool has_aggregate(const Node& node);

[[nodiscard]] bool uses_current_date(const Tree& tree);

/// The numerator and denominator of a quotient or an average, which are exact where the quotient is rounded.
[[nodiscard]] std::optional<std::pair<Tree, Tree>> fraction_of(const Tree& tree);

/// The aggregate that `orders`, `customers`, `products` or `lines` means; empty for other names. An order
/// that contains only returns is not an order.
[[nodiscard]] std::string_view ready_figure(std::string_view name);
[[nodiscard]] std::vector<std::string> ready_figures();

}  // namespace pear::expression
