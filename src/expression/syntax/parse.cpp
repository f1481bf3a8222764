#include "expression/syntax/parse.hpp"

#include <algorithm>
#include <memory>
#include <utility>

#include <fmt/format.h>
#include <tao/pegtl/contrib/parse_tree.hpp>

#include "base/text.hpp"
#include "expression/syntax/grammar.hpp"
#include "expression/syntax/node_reader.hpp"

namespace pear::expression {
namespace {

namespace g = grammar;
namespace tree = tao::pegtl::parse_tree;
// Rules whose text matters, rules that are always a node, and rules that are a node only if they
// join several parts.
template <class Rule>
using selected = tree::selector<
    Rule,
    tree::store_content::on<g::text_literal, g::number_literal, g::date_literal, g::time_literal,
                            g::days_literal, g::null_literal, g::true_literal, g::false_literal,
                            g::column_name, g::quoted_name, g::extract_field, g::type_name, g::function_name,
                            g::times, g::divided, g::plus_sign, g::minus, g::concat_sign, g::comparison_sign,
                            g::negated, g::star, g::distinct, g::function_call, g::list_item, g::sort_key>,
    tree::remove_content::on<g::extract, g::substring, g::cast, g::filter_part, g::within_group, g::over_part,
                             g::alias, g::descending, g::else_part, g::when_part, g::simple_case,
                             g::searched_case, g::negative, g::in_part, g::between_part, g::like_part,
                             g::null_part, g::comparison, g::negation>,
    tree::fold_one::on<g::term, g::sum, g::predicate, g::conjunction, g::disjunction>>;

/// What people write who know another language better.
std::string hint(std::string_view rest) {
  if (rest.starts_with("==")) return " Equality is written with one =.";
  if (rest.starts_with("!=")) return " \"Not equal\" is written <>.";
  if (rest.starts_with("&")) return " \"And\" is written AND.";
  if (rest.starts_with("'")) return " A quote within a text is written twice.";
  return "";
}

/// The number of times a word occurs, in upper or lower case, also within other words: a bound on nesting,
/// not a count.
std::ptrdiff_t occurrences(std::string_view text, std::string_view word) {
  std::ptrdiff_t count = 0;
  for (std::size_t at = 0; at + word.size() <= text.size(); ++at) {
    const bool here = std::equal(word.begin(), word.end(), text.begin() + static_cast<std::ptrdiff_t>(at),
                                 [](char a, char b) { return a == (b | 0x20); });
    count += here ? 1 : 0;
  }
  return count;
}

OrError<void> check_bounds(std::string_view text) {
  constexpr std::size_t kLongest = 10'000;
  constexpr std::ptrdiff_t kMostNested = 200;
  if (without_space_at_end(text).empty()) return usage_error("the expression is empty");
  if (text.size() > kLongest || std::count(text.begin(), text.end(), '(') > kMostNested ||
      occurrences(text, "case") > kMostNested || occurrences(text, "not") > kMostNested)
    return usage_error(fmt::format(
        "an expression may have up to {} characters, and up to {} opening parentheses, CASE and NOT each",
        with_thousands(static_cast<std::int64_t>(kLongest)), kMostNested));
  return {};
}

/// PEGTL's tree of a text that matches Whole; if it does not, Front finds how far the text can be read.
template <class Whole, class Front>
OrError<std::unique_ptr<tree::node>> parsed(std::string_view text) {
  PEAR_TRY(check_bounds(text));
  tao::pegtl::memory_input input(text.data(), text.size(), "");
  if (auto root = tree::parse<Whole, selected>(input)) return root;
  tao::pegtl::memory_input again(text.data(), text.size(), "");
  const bool front = tao::pegtl::parse<tao::pegtl::seq<g::gap, Front>>(again);
  const std::size_t at = front ? again.position().byte : 0;
  const std::string_view rest = text.substr(at);
  return usage_error(fmt::format("cannot read {} from {} on.{} (column {})", in_quotes(text), in_quotes(rest),
                                 hint(rest), at + 1));
}

/// Cuts the windows out of a node, and leaves columns of their names. Inner ones come first.
void cut_windows(Node& node, std::vector<Window>& windows) {
  for (auto* parts : {&node.args, &node.filter, &node.partition, &node.order}) {
    for (Node& part : *parts) cut_windows(part, windows);
  }
  if (!node.is_over) return;
  Node column;
  column.op = Op::column;
  column.at = node.at;
  column.text = node.text;
  windows.push_back({node.text, std::move(node)});
  node = std::move(column);
}

OrError<Tree> tree_of(const tree::node& node, std::string_view text) {
  Tree result;
  result.text = std::string(text);
  result.name = result.text;
  PEAR_ASSIGN(result.root, read_node(node));
  cut_windows(result.root, result.windows);
  return result;
}

/// The text of an item of a list without its tail (AS, DESC), which is the last child if there is one.
std::string_view item_text(std::string_view text, const tree::node& item, bool has_tail) {
  const std::size_t begin = item.begin().byte;
  const std::size_t end = has_tail ? item.children.back()->begin().byte : item.end().byte;
  return without_space_at_end(text.substr(begin, end - begin));
}

}  // namespace

OrError<Node> parse_expression(std::string_view text) {
  PEAR_ASSIGN(const auto root, (parsed<g::expression, g::disjunction>(text)));
  return read_node(*root->children.front());
}

OrError<Tree> parse_tree(std::string_view text) {
  PEAR_ASSIGN(const auto root, (parsed<g::expression, g::disjunction>(text)));
  return tree_of(*root->children.front(), without_space_at_end(text));
}

OrError<std::vector<Tree>> parse_list(std::string_view text) {
  PEAR_ASSIGN(const auto root,
              (parsed<g::expression_list, tao::pegtl::list<g::list_item, g::sign<','>>>(text)));
  std::vector<Tree> list;
  for (const auto& item : root->children) {
    const bool named = item->children.size() > 1;
    PEAR_ASSIGN(Tree tree, tree_of(*item->children.front(), item_text(text, *item, named)));
    if (named) tree.name = name_of(*item->children.back()->children.front());
    list.push_back(std::move(tree));
  }
  return list;
}

OrError<std::vector<SortKey>> parse_sort(std::string_view text) {
  PEAR_ASSIGN(const auto root, (parsed<g::sort_list, tao::pegtl::list<g::sort_key, g::sign<','>>>(text)));
  std::vector<SortKey> keys;
  for (const auto& item : root->children) {
    const bool descending = item->children.size() > 1;
    PEAR_ASSIGN(Tree tree, tree_of(*item->children.front(), item_text(text, *item, descending)));
    keys.push_back({std::move(tree), descending});
  }
  return keys;
}

}  // namespace pear::expression
