#include "expression/syntax/tree.hpp"

#include <algorithm>
#include <array>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "daybook/daybook.hpp"
#include "expression/evaluate/check.hpp"

namespace pear::expression {
namespace {

constexpr std::array<std::pair<std::string_view, std::string_view>, 4> kReadyFigures = {
    {{"orders", "count(distinct order_id) filter (where not is_return)"},
     {"customers", "count(distinct customer_id)"},
     {"products", "count(distinct product_id)"},
     {"lines", "count(*)"}}};

/// The columns it needs if it counts orders without returns.
constexpr std::string_view kReturnFlag = "is_return";

/// Whether products are counted anywhere: then the products of lines are needed, in addition to the ids.
bool counts_products(const Node& node) {
  if (node.op == Op::count_members && node.number == static_cast<std::int64_t>(daybook::Level::product))
    return true;
  return std::any_of(node.args.begin(), node.args.end(), counts_products);
}

template <class Visit>
OrError<void> visit_columns(const Node& node, const Visit& visit) {
  if (node.op == Op::column) PEAR_TRY(visit(node));
  for (const auto* parts : {&node.args, &node.filter, &node.partition, &node.order}) {
    for (const Node& part : *parts) PEAR_TRY(visit_columns(part, visit));
  }
  return {};
}

/// Whether the node at this position of the text is compared with a column, as North in region = North.
bool is_compared(const Node& node, std::size_t at) {
  const bool compares = (node.op >= Op::equal && node.op <= Op::greater_or_equal) || node.op == Op::in_list ||
                        node.op == Op::like;
  if (compares && node.args.front().op == Op::column &&
      std::any_of(node.args.begin() + 1, node.args.end(), [&](const Node& arg) { return arg.at == at; }))
    return true;
  for (const auto* parts : {&node.args, &node.filter, &node.partition, &node.order})
    if (std::any_of(parts->begin(), parts->end(), [&](const Node& part) { return is_compared(part, at); }))
      return true;
  return false;
}

bool uses_current_date(const Node& node) {
  if (node.op == Op::current_date) return true;
  for (const auto* parts : {&node.args, &node.filter, &node.partition, &node.order})
    if (std::any_of(parts->begin(), parts->end(), [](const Node& part) { return uses_current_date(part); }))
      return true;
  return false;
}

/// The columns of the whole tree, except windows.
template <class Visit>
OrError<void> visit_columns(const Tree& tree, const Visit& visit) {
  const auto unless_window = [&](const Node& node) -> OrError<void> {
    for (const Window& window : tree.windows) {
      if (window.name == node.text) return {};
    }
    return visit(node);
  };
  for (const Window& window : tree.windows) PEAR_TRY(visit_columns(window.aggregate, unless_window));
  return visit_columns(tree.root, unless_window);
}

}  // namespace

std::optional<std::pair<Tree, Tree>> fraction_of(const Tree& tree) {
  std::pair<Tree, Tree> fraction(tree, tree);
  if (tree.root.op == Op::divide) {
    fraction.first.root = tree.root.args.front();
    fraction.second.root = tree.root.args.back();
  } else if (tree.root.op == Op::average) {
    fraction.first.root.op = Op::sum;
    fraction.second.root.op = Op::count_values;
  } else {
    return std::nullopt;
  }
  return fraction;
}

std::string_view ready_figure(std::string_view name) {
  for (const auto& [figure, meaning] : kReadyFigures) {
    if (figure == name) return meaning;
  }
  return {};
}

std::vector<std::string> ready_figures() {
  std::vector<std::string> names;
  for (const auto& [figure, meaning] : kReadyFigures) names.emplace_back(figure);
  return names;
}

std::set<std::string> columns_of(const Tree& tree) {
  std::set<std::string> names;
  const auto insert = [&](const Node& node) -> OrError<void> {
    if (ready_figure(node.text).empty()) {
      names.insert(node.text);
    } else if (node.text == "orders") {
      names.emplace(kReturnFlag);
    } else if (node.text == "products") {
      names.emplace(daybook::role::kProductId);
    }
    return {};
  };
  (void)visit_columns(tree, insert);  // inserting cannot fail
  const bool in_window = std::any_of(tree.windows.begin(), tree.windows.end(),
                                     [](const Window& window) { return counts_products(window.aggregate); });
  if (in_window || counts_products(tree.root)) names.emplace(daybook::role::kProductId);
  return names;
}

OrError<void> check_names(const Tree& tree, const std::vector<std::string>& known) {
  return visit_columns(tree, [&](const Node& node) -> OrError<void> {
    const bool found = std::find(known.begin(), known.end(), node.text) != known.end() ||
                       std::find(known.begin(), known.end(), snake_case(node.text)) != known.end();
    if (found) return {};
    if (is_compared(tree.root, node.at) && did_you_mean(node.text, known).empty())
      return usage_error(
          fmt::format("there is no column {}. If it is a text, put it in quotes: '{}' (column {})",
                      in_quotes(node.text), node.text, node.at));
    return unknown_column(node, known);
  });
}

bool uses_current_date(const Tree& tree) {
  return uses_current_date(tree.root) ||
         std::any_of(tree.windows.begin(), tree.windows.end(),
                     [](const Window& window) { return uses_current_date(window.aggregate); });
}

bool has_aggregate(const Node& node) {
  if (is_aggregate(node.op)) return !node.is_over;
  return std::any_of(node.args.begin(), node.args.end(), has_aggregate);
}

}  // namespace pear::expression
