#include "expression/syntax/node_reader.hpp"

#include <algorithm>
#include <array>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "base/text.hpp"
#include "expression/evaluate/function_call.hpp"
#include "expression/syntax/grammar.hpp"

namespace pear::expression {
namespace {

namespace g = grammar;
using TreeNode = tao::pegtl::parse_tree::node;

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

constexpr std::array<std::pair<std::string_view, Op>, 7> kFields = {{{"year", Op::year_of},
                                                                     {"quarter", Op::quarter_of},
                                                                     {"month", Op::month_of},
                                                                     {"week", Op::week_of},
                                                                     {"day", Op::day_of},
                                                                     {"hour", Op::hour_of},
                                                                     {"minute", Op::minute_of}}};

/// Of CAST. INTEGER is a number that is rounded.
constexpr std::array<std::pair<std::string_view, Op>, 5> kTypes = {{{"NUMERIC", Op::to_number},
                                                                    {"DECIMAL", Op::to_number},
                                                                    {"INTEGER", Op::to_number},
                                                                    {"DATE", Op::to_date},
                                                                    {"VARCHAR", Op::to_text}}};

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

/// Converts PEGTL's tree into ours. Longer forms are built from shorter ones: BETWEEN from two comparisons, a
/// simple CASE from a searched one.
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
    if (node.is_type<g::cast>()) return cast(node);
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
    constexpr std::size_t kMostTerms = 200;
    if (node.children.size() > 2 * kMostTerms)
      return fault(node.begin().byte + 1,
                   fmt::format("more than {} values are combined with operators here", kMostTerms));
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
                 fmt::format("EXTRACT has {}, not {}", join(names, ", "),
                             in_quotes(node.children.front()->string_view())));
  }

  OrError<Node> cast(const TreeNode& node) {
    const std::size_t at = node.begin().byte + 1;
    const std::string type = snake_case(node.children.back()->string_view());
    const auto found = std::find_if(kTypes.begin(), kTypes.end(),
                                    [&](const auto& known) { return snake_case(known.first) == type; });
    if (found == kTypes.end()) {
      std::vector<std::string> names;
      for (const auto& [name, op] : kTypes) names.emplace_back(name);
      return fault(node.children.back()->begin().byte + 1,
                   fmt::format("CAST converts to {}, not to {}", join(names, ", "),
                               in_quotes(node.children.back()->string_view())));
    }
    PEAR_ASSIGN(Node value, one(found->second, at, *node.children.front()));
    if (type != "integer") return value;
    Node rounded = make(Op::round, at);
    rounded.args.push_back(std::move(value));
    return rounded;
  }

  /// What is after PARTITION BY and ORDER BY.
  OrError<void> keys_of(const TreeNode& part, FunctionCall& call) {
    for (const auto& child : part.children) {
      const bool is_order = child->is_type<g::sort_key>();
      PEAR_ASSIGN(Node key, read(is_order ? *child->children.front() : *child));
      key.is_descending = is_order && child->children.size() > 1;
      (is_order ? call.order : call.partition).push_back(std::move(key));
    }
    return {};
  }

  OrError<Node> function(const TreeNode& node) {
    FunctionCall call;
    call.at = node.begin().byte + 1;
    call.name = snake_case(node.children.front()->string_view());
    for (std::size_t i = 1; i < node.children.size(); ++i) {
      const TreeNode& part = *node.children[i];
      if (part.is_type<g::star>()) {
        call.star = true;
      } else if (part.is_type<g::distinct>()) {
        call.distinct = true;
      } else if (part.is_type<g::filter_part>()) {
        PEAR_ASSIGN(Node condition, read(*part.children.front()));
        call.filter.push_back(std::move(condition));
      } else if (part.is_type<g::within_group>()) {
        call.has_within_group = true;
        PEAR_TRY(keys_of(part, call));
      } else if (part.is_type<g::over_part>()) {
        call.is_over = true;
        PEAR_TRY(keys_of(part, call));
      } else {
        PEAR_ASSIGN(Node arg, read(part));
        call.args.push_back(std::move(arg));
      }
    }
    PEAR_ASSIGN(Node called, called_function(std::move(call)));
    if (called.is_over) called.text = std::string(without_space_at_end(node.string_view()));
    return called;
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
      std::string name = name_of(node);
      const bool is_today = node.is_type<g::column_name>() && snake_case(name) == "current_date";
      Node column = make(is_today ? Op::current_date : Op::column, at);
      column.text = std::move(name);
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
      return fault(
          at, fmt::format("{} is not a usable {}: it {}", in_quotes(text), what, describe(parsed.error())));
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

}  // namespace

OrError<Node> read_node(const TreeNode& node) { return Reader().read(node); }

std::string name_of(const TreeNode& node) {
  return node.is_type<g::quoted_name>() ? unquoted(node.string_view(), '"')
                                        : std::string(without_gap(node.string_view()));
}

}  // namespace pear::expression
