#include "expression/parse.hpp"

#include <algorithm>
#include <array>
#include <optional>
#include <utility>

#include <fmt/format.h>
#include <tao/pegtl/contrib/parse_tree.hpp>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "base/text.hpp"
#include "expression/grammar.hpp"

namespace pear {
namespace {

namespace g = grammar;
namespace tree = tao::pegtl::parse_tree;

// Rules whose text matters, rules that are a node whatever they hold, and rules that are one only where they
// join several parts.
template <class Rule>
using selected = tree::selector<
    Rule,
    tree::store_content::on<g::text_literal, g::number_literal, g::date_literal, g::time_literal,
                            g::days_literal, g::null_literal, g::true_literal, g::false_literal,
                            g::column_name, g::quoted_name, g::extract_field, g::function_name, g::times,
                            g::divided, g::plus_sign, g::minus, g::concat_sign, g::comparison_sign,
                            g::negated>,
    tree::remove_content::on<g::extract, g::substring, g::function_call, g::else_part, g::when_part,
                             g::simple_case, g::searched_case, g::negative, g::in_part, g::between_part,
                             g::like_part, g::null_part, g::comparison, g::negation>,
    tree::fold_one::on<g::term, g::sum, g::predicate, g::conjunction, g::disjunction>>;

using TreeNode = tree::node;

std::string unquoted(std::string_view text, char quote) {
  const std::size_t begin = text.find(quote);
  const std::size_t end = text.rfind(quote);
  std::string plain;
  for (std::size_t i = begin + 1; i < end; ++i) {
    plain += text[i];
    if (text[i] == quote) ++i;  // written twice
  }
  return plain;
}

std::string_view without_gap(std::string_view text) {
  return text.substr(0, text.find_first_of(" \t\r\n-("));
}

tl::unexpected<Error> fault(std::size_t at, const std::string& what) {
  return usage_error(fmt::format("{} (column {})", what, at));
}

struct FunctionInfo {
  std::string_view name;
  Op op;
  std::size_t fewest, most;
};
constexpr std::array<FunctionInfo, 12> kFunctions = {{{"lower", Op::lower, 1, 1},
                                                      {"upper", Op::upper, 1, 1},
                                                      {"trim", Op::trim, 1, 1},
                                                      {"char_length", Op::char_length, 1, 1},
                                                      {"character_length", Op::char_length, 1, 1},
                                                      {"abs", Op::absolute, 1, 1},
                                                      {"round", Op::round, 1, 2},
                                                      {"floor", Op::floor, 1, 1},
                                                      {"ceiling", Op::ceiling, 1, 1},
                                                      {"ceil", Op::ceiling, 1, 1},
                                                      {"coalesce", Op::coalesce, 1, 99},
                                                      {"nullif", Op::null_if, 2, 2}}};

constexpr std::array<std::pair<std::string_view, Op>, 7> kFields = {{{"year", Op::year_of},
                                                                     {"quarter", Op::quarter_of},
                                                                     {"month", Op::month_of},
                                                                     {"week", Op::week_of},
                                                                     {"day", Op::day_of},
                                                                     {"hour", Op::hour_of},
                                                                     {"minute", Op::minute_of}}};

Node make(Op op, std::size_t at, std::vector<Node> args = {}) {
  Node node;
  node.op = op;
  node.at = at;
  node.args = std::move(args);
  return node;
}

std::vector<Node> pair_of(Node a, Node b) {
  std::vector<Node> both;
  both.push_back(std::move(a));
  both.push_back(std::move(b));
  return both;
}

/// Turns PEGTL's tree into ours; longer forms are told by shorter ones: BETWEEN by two comparisons, a simple
/// CASE by a searched one.
class Reader {
 public:
  OrError<Node> read(const TreeNode& node) {
    const std::size_t at = node.begin().byte + 1;
    if (node.is_type<g::disjunction>()) return chain(node, Op::either);
    if (node.is_type<g::conjunction>()) return chain(node, Op::both);
    if (node.is_type<g::sum>() || node.is_type<g::term>()) return arithmetic(node);
    if (node.is_type<g::predicate>()) return predicate(node);
    if (node.is_type<g::negation>()) return one(Op::negation, at, *node.children.back());
    if (node.is_type<g::negative>()) return one(Op::negate, at, *node.children.back());
    if (node.is_type<g::extract>()) return extract(node);
    if (node.is_type<g::substring>()) return all(Op::substring, at, node, 0);
    if (node.is_type<g::function_call>()) return function(node);
    if (node.is_type<g::searched_case>() || node.is_type<g::simple_case>()) return case_of(node);
    return literal(node, at);
  }

 private:
  OrError<Node> one(Op op, std::size_t at, const TreeNode& arg) {
    PEAR_ASSIGN(Node inner, read(arg));
    Node node = make(op, at);
    node.args.push_back(std::move(inner));
    return node;
  }

  OrError<Node> all(Op op, std::size_t at, const TreeNode& node, std::size_t from) {
    Node result = make(op, at);
    for (std::size_t i = from; i < node.children.size(); ++i) {
      PEAR_ASSIGN(Node arg, read(*node.children[i]));
      result.args.push_back(std::move(arg));
    }
    return result;
  }

  OrError<Node> chain(const TreeNode& node, Op op) { return all(op, node.begin().byte + 1, node, 0); }

  OrError<Node> arithmetic(const TreeNode& node) {
    PEAR_ASSIGN(Node left, read(*node.children.front()));
    for (std::size_t i = 1; i + 1 < node.children.size(); i += 2) {
      const TreeNode& sign = *node.children[i];
      const Op op = sign.is_type<g::plus_sign>() ? Op::add
                    : sign.is_type<g::minus>()   ? Op::subtract
                    : sign.is_type<g::times>()   ? Op::multiply
                    : sign.is_type<g::divided>() ? Op::divide
                                                 : Op::concatenate;
      PEAR_ASSIGN(Node right, read(*node.children[i + 1]));
      left = make(op, sign.begin().byte + 1, pair_of(std::move(left), std::move(right)));
    }
    return left;
  }

  OrError<Node> predicate(const TreeNode& node) {
    PEAR_ASSIGN(Node left, read(*node.children.front()));
    const TreeNode& part = *node.children.back();
    const std::size_t at = part.begin().byte + 1;
    if (part.is_type<g::comparison>()) return comparison(std::move(left), part);
    const bool negated = part.children.size() > 0 && part.children.front()->is_type<g::negated>();
    PEAR_ASSIGN(Node rest, all(Op::in_list, at, part, negated ? 1 : 0));
    Node result;
    if (part.is_type<g::between_part>()) {
      Node copy = left;
      std::vector<Node> both;
      both.push_back(make(Op::greater_or_equal, at, pair_of(std::move(copy), std::move(rest.args[0]))));
      both.push_back(make(Op::less_or_equal, at, pair_of(std::move(left), std::move(rest.args[1]))));
      result = make(Op::both, at, std::move(both));
    } else {
      result = make(part.is_type<g::in_part>()     ? Op::in_list
                    : part.is_type<g::like_part>() ? Op::like
                                                   : Op::is_null,
                    at);
      result.args.push_back(std::move(left));
      for (Node& arg : rest.args) result.args.push_back(std::move(arg));
    }
    if (!negated) return result;
    Node negation = make(Op::negation, at);
    negation.args.push_back(std::move(result));
    return negation;
  }

  OrError<Node> comparison(Node left, const TreeNode& part) {
    const TreeNode& sign = *part.children.front();
    const std::string_view text = without_gap(sign.string_view());
    const Op op = text == "="    ? Op::equal
                  : text == "<>" ? Op::not_equal
                  : text == "<"  ? Op::less
                  : text == "<=" ? Op::less_or_equal
                  : text == ">"  ? Op::greater
                                 : Op::greater_or_equal;
    PEAR_ASSIGN(Node right, read(*part.children.back()));
    return make(op, sign.begin().byte + 1, pair_of(std::move(left), std::move(right)));
  }

  OrError<Node> extract(const TreeNode& node) {
    const std::string field = snake_case(node.children.front()->string_view());
    for (const auto& [name, op] : kFields) {
      if (name == field) return one(op, node.begin().byte + 1, *node.children.back());
    }
    std::vector<std::string> names;
    for (const auto& [name, op] : kFields) names.emplace_back(name);
    return fault(node.children.front()->begin().byte + 1,
                 fmt::format("EXTRACT takes {}, not {}", join(names, ", "),
                             in_quotes(node.children.front()->string_view())));
  }

  OrError<Node> function(const TreeNode& node) {
    const std::size_t at = node.begin().byte + 1;
    const std::string name = snake_case(node.children.front()->string_view());
    std::vector<std::string> names = {"extract", "substring"};
    for (const FunctionInfo& info : kFunctions) {
      names.emplace_back(info.name);
      if (info.name != name) continue;
      PEAR_ASSIGN(Node call, all(info.op, at, node, 1));
      const std::size_t given = call.args.size();
      if (given < info.fewest || given > info.most)
        return fault(at, fmt::format("{} takes {}{}, not {}", name, counted(info.fewest, "value"),
                                     info.most > info.fewest ? " or more" : "", given));
      return call;
    }
    return fault(at, fmt::format("there is no function {}.{}", in_quotes(name), did_you_mean(name, names)));
  }

  OrError<Node> case_of(const TreeNode& node) {
    Node result = make(Op::case_when, node.begin().byte + 1);
    std::optional<Node> subject;
    Node otherwise = make(Op::null_literal, result.at);
    for (const auto& child : node.children) {
      if (child->is_type<g::when_part>()) {
        PEAR_ASSIGN(Node condition, read(*child->children.front()));
        PEAR_ASSIGN(Node value, read(*child->children.back()));
        if (subject) {
          const std::size_t at = condition.at;
          condition = make(Op::equal, at, pair_of(*subject, std::move(condition)));
        }
        result.args.push_back(std::move(condition));
        result.args.push_back(std::move(value));
      } else if (child->is_type<g::else_part>()) {
        PEAR_ASSIGN(otherwise, read(*child->children.front()));
      } else {
        PEAR_ASSIGN(subject, read(*child));
      }
    }
    result.args.push_back(std::move(otherwise));
    return result;
  }

  static OrError<Node> literal(const TreeNode& node, std::size_t at) {
    const std::string_view text = node.string_view();
    if (node.is_type<g::column_name>() || node.is_type<g::quoted_name>()) {
      Node column = make(Op::column, at);
      column.text = node.is_type<g::quoted_name>() ? unquoted(text, '"') : std::string(without_gap(text));
      return column;
    }
    if (node.is_type<g::null_literal>()) return make(Op::null_literal, at);
    if (node.is_type<g::true_literal>() || node.is_type<g::false_literal>()) {
      Node truth = make(Op::truth_literal, at);
      truth.number = node.is_type<g::true_literal>() ? 1 : 0;
      return truth;
    }
    if (node.is_type<g::number_literal>()) return number(Op::number_literal, at, without_gap(text), "number");
    Node value = make(Op::text_literal, at);
    value.text = unquoted(text, '\'');
    if (node.is_type<g::date_literal>()) return date(std::move(value));
    if (node.is_type<g::time_literal>()) return time(std::move(value));
    if (node.is_type<g::days_literal>()) return number(Op::days_literal, at, value.text, "number of days");
    return value;
  }

  static OrError<Node> number(Op op, std::size_t at, std::string_view text, std::string_view what) {
    const auto parsed = Decimal::parse(text);
    if (!parsed)
      return fault(at, fmt::format("{} is not a {} that can be used: it {}", in_quotes(text), what,
                                   describe(parsed.error())));
    Node value = make(op, at);
    value.number = parsed->units();
    if (op == Op::days_literal) {
      if (value.number % Decimal::kScale != 0)
        return fault(at, fmt::format("{} is not a whole number of days", in_quotes(text)));
      value.number /= Decimal::kScale;
    }
    return value;
  }

  static OrError<Node> date(Node value) {
    const auto moment = parse_iso_moment(value.text);
    if (!moment || moment->second_of_day != Moment::kNoTime)
      return fault(value.at,
                   fmt::format("{} is not a date; it is written DATE '2024-09-30'", in_quotes(value.text)));
    value.op = Op::date_literal;
    value.number = moment->date.days;
    return value;
  }

  static OrError<Node> time(Node value) {
    const auto moment = parse_iso_moment("2000-01-01 " + value.text);
    if (!moment)
      return fault(value.at,
                   fmt::format("{} is not a time of day; it is written TIME '14:05'", in_quotes(value.text)));
    value.op = Op::time_literal;
    value.number = moment->second_of_day;
    return value;
  }
};

/// What people write who know another language better.
std::string hint(std::string_view rest) {
  if (rest.starts_with("==")) return " Equality is written with one =.";
  if (rest.starts_with("!=")) return " \"Not equal\" is written <>.";
  if (rest.starts_with("&")) return " \"And\" is written AND.";
  if (rest.starts_with("'")) return " A quote within a text is written twice.";
  return "";
}

}  // namespace

OrError<Node> parse_expression(std::string_view text) {
  constexpr std::size_t kLongest = 10'000;
  constexpr std::ptrdiff_t kMostParentheses = 200;
  if (text.find_first_not_of(" \t\r\n") == std::string_view::npos)
    return usage_error("the expression is empty");
  if (text.size() > kLongest || std::count(text.begin(), text.end(), '(') > kMostParentheses)
    return usage_error(fmt::format("an expression has up to {} characters and {} opening parentheses",
                                   kLongest, kMostParentheses));
  tao::pegtl::memory_input input(text.data(), text.size(), "");
  if (const auto root = tree::parse<g::expression, selected>(input))
    return Reader().read(*root->children.front());
  // Parsed again only to find out how far it makes sense.
  tao::pegtl::memory_input again(text.data(), text.size(), "");
  const bool front = tao::pegtl::parse<tao::pegtl::seq<g::gap, g::disjunction>>(again);
  const std::size_t at = front ? again.position().byte : 0;
  const std::string_view rest = text.substr(at);
  return fault(at + 1, fmt::format("{} is not understood from {} on.{}", in_quotes(text), in_quotes(rest),
                                   hint(rest)));
}

}  // namespace pear
