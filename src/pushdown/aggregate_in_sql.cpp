#include "pushdown/aggregate_in_sql.hpp"

#include <algorithm>
#include <map>
#include <utility>

#include <fmt/format.h>

#include "base/decimal.hpp"
#include "base/text.hpp"
#include "expression/evaluate/check.hpp"
#include "pushdown/sql_expression.hpp"

namespace pear::pushdown {
namespace {

using expression::Aggregate;
using expression::Grain;
using expression::Node;
using expression::Op;
namespace grain = expression::grain;

bool is_extreme(Op op) { return op == Op::minimum || op == Op::maximum; }
bool is_count(Op op) { return op >= Op::count_rows && op <= Op::count_distinct; }

/// The ids of what is counted once.
std::vector<std::string> ids_of(Grain of) {
  std::vector<std::string> ids;
  if (expression::within(grain::kCustomer, of)) ids.emplace_back("customer_id");
  if (expression::within(grain::kOrder, of)) ids.emplace_back("order_id");
  if (expression::within(grain::kProduct, of)) ids.emplace_back("product_id");
  return ids;
}

/// What one aggregate needs of each line.
struct Input {
  Op op = Op::count_rows;
  Grain grain = grain::kLine;
  std::string value;  ///< what is counted or added up; NULL where FILTER leaves it out
  std::int64_t share = Decimal::kScale / 2;
  bool is_text = false;

  /// Whether the customer's lines are enough to know the customer's part.
  [[nodiscard]] bool is_by_customer() const {
    if (op == Op::count_distinct || op == Op::median || op == Op::percentile) return false;
    if (op == Op::count_members) return grain != grain::kProduct;
    return is_extreme(op) || grain == grain::kLine || grain == grain::kCustomer;
  }
};

/// The aggregate functions, with their opening bracket, of a customer's lines and of what they give for each
/// customer: a pair for each column of the answer.
std::vector<std::pair<std::string, std::string>> steps_of(const Input& input) {
  if (input.op == Op::minimum) return {{"MIN(", "MIN("}};
  if (input.op == Op::maximum) return {{"MAX(", "MAX("}};
  if (input.grain == grain::kCustomer) {
    if (input.op == Op::average) return {{"MAX(", "SUM("}, {"MAX(", "COUNT("}};
    return {{"MAX(", is_count(input.op) ? "COUNT(" : "SUM("}};
  }
  if (input.op == Op::average) return {{"SUM(", "SUM("}, {"COUNT(", "SUM("}};
  if (input.op == Op::sum) return {{"SUM(", "SUM("}};
  return {{input.op == Op::count_members ? "COUNT(DISTINCT " : "COUNT(", "SUM("}};
}

OrError<Input> input_of(const Aggregate& aggregate, const LineScope& scope) {
  const SqlScope of_lines{scope.dialect, scope.schema.schema()};
  const Node& node = aggregate.node();
  Input input{node.op, aggregate.grain(), "1", node.op == Op::percentile ? node.number : Decimal::kScale / 2,
              false};
  if (node.op == Op::deviation || node.op == Op::population_deviation)
    return usage_error(fmt::format(
        "a database does not compute STDDEV as a daybook does (column {}). Use the daybook of an import.",
        node.at));
  if (node.op == Op::count_members && input.grain == grain::kOrder) input.value = "order_id";
  if (!node.args.empty()) {
    Node argument = node.args.front();
    PEAR_TRY(expression::check_types(argument, of_lines.view));
    PEAR_ASSIGN(input.value, sql_of_checked(argument, of_lines));
    input.is_text = argument.type == expression::ValueType::text;
    if (node.op == Op::count_values)
      input.value = fmt::format("CASE WHEN {} IS NOT NULL THEN 1 END", input.value);
    if (is_extreme(node.op) && input.is_text) input.value = scope.dialect.by_code_point(input.value);
  }
  if (!node.filter.empty()) {
    PEAR_ASSIGN(const std::string filter, sql_of(node.filter.front(), of_lines));
    input.value = fmt::format("CASE WHEN {} THEN {} END", filter, input.value);
  }
  return input;
}

/// Writes the statements over lines by some keys.
class Statements {
 public:
  Statements(const std::vector<std::string>& keys, const std::string& lines) : keys_(keys), lines_(lines) {
    for (std::size_t i = 0; i < keys.size(); ++i) names_.push_back(fmt::format("k{}", i));
  }

  /// Of all aggregates that a customer's lines determine a part of.
  [[nodiscard]] GroupStatement by_customer(const std::vector<Input>& inputs,
                                           const std::vector<std::size_t>& chosen) const {
    GroupStatement made{"", chosen, 0};
    std::vector<std::string> values, of_customer = {"COUNT(*) AS n"}, of_group;
    for (const std::size_t i : chosen) {
      values.push_back(fmt::format("{} AS a{}", inputs[i].value, i));
      for (const auto& [own, all] : steps_of(inputs[i])) {
        of_customer.push_back(fmt::format("{}a{}) AS p{}", own, i, made.values));
        of_group.push_back(fmt::format("{}p{}) AS v{}", all, made.values, made.values));
        ++made.values;
      }
    }
    of_group.emplace_back("SUM(n) AS n");
    std::vector<std::string> with_customer = names_;
    with_customer.emplace_back("customer_id");
    made.select =
        grouped(names_, of_group, grouped(with_customer, of_customer, from_lines({"customer_id"}, values)));
    return made;
  }

  /// Of what is counted once for each combination of ids.
  [[nodiscard]] GroupStatement by_ids(const Input& input, std::size_t position) const {
    GroupStatement made{"", {position}, 1};
    const std::vector<std::string> ids = ids_of(input.grain);
    std::vector<std::string> members = names_;
    members.insert(members.end(), ids.begin(), ids.end());
    std::vector<std::string> of_group = {is_count(input.op) ? "COUNT(a) AS v0" : "SUM(a) AS v0"};
    if (input.op == Op::average) of_group.emplace_back("COUNT(a) AS v1"), ++made.values;
    made.select = grouped(names_, of_group,
                          grouped(members, {"MAX(a) AS a"}, from_lines(ids, {input.value + " AS a"})));
    return made;
  }

  [[nodiscard]] GroupStatement by_value(const Input& input, std::size_t position) const {
    std::vector<std::string> members = names_;
    members.emplace_back("a");
    const std::string filled = fmt::format("SELECT * FROM ({}) AS pear_values WHERE a IS NOT NULL",
                                           from_lines({}, {input.value + " AS a"}));
    return {grouped(names_, {"COUNT(*) AS v0"}, grouped(members, {}, filled)), {position}, 1};
  }

  /// The two values around a share of the values in order.
  [[nodiscard]] GroupStatement in_order(const Input& input, std::size_t position) const {
    std::string values = from_lines({}, {input.value + " AS a"});
    if (input.grain != grain::kLine) {
      const std::vector<std::string> ids = ids_of(input.grain);
      std::vector<std::string> members = names_;
      members.insert(members.end(), ids.begin(), ids.end());
      values = grouped(members, {"MAX(a) AS a"}, from_lines(ids, {input.value + " AS a"}));
    }
    const std::string of_group = names_.empty() ? "" : "PARTITION BY " + join(names_, ", ");
    const std::string numbered = fmt::format(
        "SELECT pear_values.*, ROW_NUMBER() OVER ({0} ORDER BY a) AS place, COUNT(*) OVER ({0}) AS n FROM "
        "({1}) AS pear_values WHERE a "
        "IS NOT NULL",
        of_group, values);
    const std::string low = fmt::format("{} * (n - 1) / 10000 + 1", input.share);
    return {grouped(names_,
                    {fmt::format("MIN(CASE WHEN place = {} THEN a END) AS v0", low),
                     fmt::format("MIN(CASE WHEN place = {} + 1 THEN a END) AS v1", low), "MIN(n) AS v2"},
                    numbered),
            {position},
            3};
  }

 private:
  [[nodiscard]] std::string from_lines(const std::vector<std::string>& ids,
                                       const std::vector<std::string>& values) const {
    std::vector<std::string> columns = ids;
    for (std::size_t i = 0; i < keys_.size(); ++i) columns.push_back(fmt::format("{} AS k{}", keys_[i], i));
    columns.insert(columns.end(), values.begin(), values.end());
    return fmt::format("SELECT {} FROM {}", columns.empty() ? "1 AS one" : join(columns, ", "), lines_);
  }

  static std::string grouped(const std::vector<std::string>& by, const std::vector<std::string>& values,
                             const std::string& from) {
    std::vector<std::string> columns = by;
    columns.insert(columns.end(), values.begin(), values.end());
    return fmt::format("SELECT {} FROM ({}) AS pear_values{}", join(columns, ", "), from,
                       by.empty() ? "" : " GROUP BY " + join(by, ", "));
  }

  const std::vector<std::string>& keys_;
  const std::string& lines_;
  std::vector<std::string> names_;
};

}  // namespace

AnswerKind answer_kind_of(const expression::Aggregate& aggregate) {
  const Op op = aggregate.node().op;
  if (is_count(op)) return AnswerKind::count;
  if (op == Op::sum) return AnswerKind::sum;
  if (op == Op::average) return AnswerKind::mean;
  return is_extreme(op) ? AnswerKind::extreme : AnswerKind::between;
}

std::size_t answer_size_of(AnswerKind kind) {
  return kind == AnswerKind::between ? 3 : kind == AnswerKind::mean ? 2 : 1;
}

OrError<std::vector<GroupStatement>> statements_of(
    const std::vector<std::string>& keys, const std::vector<const expression::Aggregate*>& aggregates,
    const std::string& lines, const LineScope& scope) {
  std::vector<Input> inputs;
  std::vector<std::size_t> by_customer;
  for (const expression::Aggregate* aggregate : aggregates) {
    PEAR_ASSIGN(Input input, input_of(*aggregate, scope));
    if (input.is_by_customer()) by_customer.push_back(inputs.size());
    inputs.push_back(std::move(input));
  }
  const Statements statements(keys, lines);
  std::vector<GroupStatement> made = {statements.by_customer(inputs, by_customer)};
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    if (inputs[i].is_by_customer()) continue;
    made.push_back(inputs[i].op == Op::count_distinct ? statements.by_value(inputs[i], i)
                   : inputs[i].op == Op::median || inputs[i].op == Op::percentile
                       ? statements.in_order(inputs[i], i)
                       : statements.by_ids(inputs[i], i));
  }
  return made;
}

OrError<std::string> window_in_sql(const Node& node, const std::vector<std::string>& keys,
                                   const std::string& lines, const LineScope& scope) {
  if (expression::is_place(node.op))
    return usage_error(fmt::format(
        "a database does not number the members of a group as a daybook does (column {}). Use the daybook "
        "of an import.",
        node.at));
  PEAR_ASSIGN(const Aggregate aggregate, Aggregate::compile(node, scope.schema));
  PEAR_ASSIGN(const std::vector<GroupStatement> statements, statements_of(keys, {&aggregate}, lines, scope));
  const GroupStatement& statement = statements.back();
  const auto integer = [](const std::string& value) { return fmt::format("CAST({} AS BIGINT)", value); };
  std::string value = "v0";
  switch (answer_kind_of(aggregate)) {
    case AnswerKind::count:
      value = integer("COALESCE(v0, 0)") + " * 10000";
      break;
    case AnswerKind::sum:
      value = integer("COALESCE(v0, 0)");
      break;
    case AnswerKind::mean:
      value = scope.dialect.quotient(integer("v0"), fmt::format("NULLIF({} * 10000, 0)", integer("v1")));
      break;
    case AnswerKind::extreme:
      break;
    case AnswerKind::between:
      return usage_error(fmt::format(
          "a database does not compute a median OVER a group (column {}). Use the daybook of an import.",
          node.at));
  }
  std::vector<std::string> columns;
  for (std::size_t i = 0; i < keys.size(); ++i) columns.push_back(fmt::format("k{}", i));
  columns.push_back(value + " AS of_group");
  return fmt::format("SELECT {} FROM ({}) AS pear_groups", join(columns, ", "), statement.select);
}

}  // namespace pear::pushdown
