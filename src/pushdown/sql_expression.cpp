#include "pushdown/sql_expression.hpp"

#include <algorithm>
#include <array>
#include <utility>
#include <vector>

#include <fmt/format.h>

#include "base/decimal.hpp"
#include "base/text.hpp"
#include "database/address.hpp"
#include "expression/evaluate/check.hpp"

namespace pear::pushdown {
namespace {

using expression::Node;
using expression::Op;
using expression::ValueType;

/// The operator between two operands; null for other nodes.
const char* word_between(Op op) {
  switch (op) {
    case Op::add:
      return "+";
    case Op::subtract:
      return "-";
    case Op::equal:
      return "=";
    case Op::not_equal:
      return "<>";
    case Op::less:
      return "<";
    case Op::less_or_equal:
      return "<=";
    case Op::greater:
      return ">";
    case Op::greater_or_equal:
      return ">=";
    case Op::both:
      return "AND";
    case Op::either:
      return "OR";
    default:
      return nullptr;
  }
}

class Writer {
 public:
  explicit Writer(const SqlScope& scope) : scope_(scope), dialect_(scope.dialect) {}

  OrError<std::string> of(const Node& node) {
    if (word_between(node.op) != nullptr) return operation(node);
    std::vector<std::string> args;
    for (const Node& arg : node.args) {
      PEAR_ASSIGN(std::string sql, of(arg));
      args.push_back(std::move(sql));
    }
    if (args.empty()) return leaf(node);
    std::string sql = logic(node, args);
    if (sql.empty()) sql = of_text(node, args);
    if (sql.empty()) sql = function(node, args);
    if (!sql.empty()) return sql;
    return usage_error(fmt::format(
        "a database does not compute this as a daybook does (column {}). Use the daybook of an import.",
        node.at));
  }

 private:
  [[nodiscard]] std::string leaf(const Node& node) const {
    switch (node.op) {
      case Op::null_literal:
        return "NULL";
      case Op::text_literal:
        return text_literal(node.text);
      case Op::date_literal:
        return dialect_.date_literal(Date{static_cast<std::int32_t>(node.number)});
      case Op::current_date:
        return dialect_.date_literal(scope_.view.data_end.value_or(Date{}));
      case Op::truth_literal:
        return node.number != 0 ? "TRUE" : "FALSE";
      case Op::column:
        return name_in_sql(scope_.view, node.column);
      default:
        return dialect_.integer_literal(node.number);
    }
  }

  OrError<std::string> operation(const Node& node) {
    const bool of_dates =
        node.args.front().type == ValueType::date && (node.op == Op::add || node.op == Op::subtract);
    if (of_dates) return of_days(node);
    const bool by_size =
        node.op >= Op::less && node.op <= Op::greater_or_equal && node.args.front().type == ValueType::text;
    std::string sql;
    for (const Node& arg : node.args) {
      PEAR_ASSIGN(const std::string operand, of(arg));
      sql += sql.empty() ? "(" : fmt::format(" {} ", word_between(node.op));
      sql += by_size ? dialect_.by_code_point(operand) : operand;
    }
    return sql + ")";
  }

  OrError<std::string> of_days(const Node& node) {
    PEAR_ASSIGN(const std::string date, of(node.args[0]));
    if (node.args[1].op == Op::days_literal)
      return dialect_.days_later(date, node.op == Op::add ? node.args[1].number : -node.args[1].number);
    PEAR_ASSIGN(const std::string other, of(node.args[1]));
    return fmt::format("({} * 10000)", dialect_.days_between(date, other));
  }

  /// Conditions and choices; empty for anything else.
  [[nodiscard]] static std::string logic(const Node& node, const std::vector<std::string>& args) {
    switch (node.op) {
      case Op::negation:
        return fmt::format("(NOT {})", args[0]);
      case Op::is_null:
        return fmt::format("({} IS NULL)", args[0]);
      case Op::in_list:
        return fmt::format("({} IN ({}))", args[0], join({args.begin() + 1, args.end()}, ", "));
      case Op::case_when: {
        std::string sql = "CASE";
        for (std::size_t i = 0; i + 1 < args.size(); i += 2)
          sql += fmt::format(" WHEN {} THEN {}", args[i], args[i + 1]);
        return fmt::format("{} ELSE {} END", sql, args.back());
      }
      case Op::coalesce: {  // as CASE, which PostgreSQL sends to foreign servers
        std::string sql = "CASE";
        for (const std::string& arg : args) sql += fmt::format(" WHEN {0} IS NOT NULL THEN {0}", arg);
        return sql + " END";
      }
      case Op::null_if:
        return fmt::format("CASE WHEN {0} = {1} THEN NULL ELSE {0} END", args[0], args[1]);
      default:
        return "";
    }
  }

  /// Functions of texts, and between texts and other types; empty for anything else.
  [[nodiscard]] std::string of_text(const Node& node, const std::vector<std::string>& args) const {
    const auto whole = [](const std::string& units) { return fmt::format("({} / 10000)", units); };
    switch (node.op) {
      case Op::concatenate:
        return fmt::format("({} || {})", args[0], args[1]);
      case Op::like:
        return dialect_.like(args[0], args[1]);
      case Op::lower:
        return dialect_.lower(args[0]);
      case Op::upper:
        return dialect_.upper(args[0]);
      case Op::trim:
        return dialect_.trimmed(args[0]);
      case Op::substring:
        return dialect_.part_of_text(args[0], whole(args[1]), args.size() > 2 ? whole(args[2]) : "");
      case Op::char_length:
        return fmt::format("({} * 10000)", dialect_.length(args[0]));
      case Op::to_number:
        return node.args[0].type == node.type ? args[0] : dialect_.units_of(args[0]);
      case Op::to_date:
        return node.args[0].type == node.type ? args[0] : dialect_.date_of(args[0]);
      case Op::to_text:
        return to_text_of(node.args[0].type, args[0]);
      default:
        return "";
    }
  }

  [[nodiscard]] std::string to_text_of(ValueType type, const std::string& value) const {
    if (type == ValueType::number) return dialect_.text_of_units(value);
    if (type == ValueType::date) return dialect_.text_of_date(value);
    return type == ValueType::text ? value : "";
  }

  /// Arithmetic, and functions of numbers, dates and times; empty for anything else.
  [[nodiscard]] std::string function(const Node& node, const std::vector<std::string>& args) const {
    switch (node.op) {
      case Op::negate:
        return fmt::format("(- {})", args[0]);
      case Op::multiply:
        return dialect_.product(args[0], args[1]);
      case Op::divide:
        return dialect_.quotient(args[0], args[1]);
      case Op::absolute:
        return fmt::format("abs({})", args[0]);
      case Op::floor:
        return fmt::format("CASE WHEN {0} < 0 THEN ({0} - 9999) / 10000 * 10000 ELSE {0} / 10000 * 10000 END",
                           args[0]);
      case Op::ceiling:
        return fmt::format("CASE WHEN {0} > 0 THEN ({0} + 9999) / 10000 * 10000 ELSE {0} / 10000 * 10000 END",
                           args[0]);
      case Op::round:
        return rounded(node, args[0]);
      case Op::hour_of:
        return fmt::format("({} / 3600 * 10000)", args[0]);
      case Op::minute_of:
        return fmt::format("(({0} / 60 - {0} / 3600 * 60) * 10000)", args[0]);
      case Op::year_of:
      case Op::quarter_of:
      case Op::month_of:
      case Op::week_of:
      case Op::day_of:
        return dialect_.part_of(node.op, args[0]);
      default:
        return "";
    }
  }

  /// Half away from zero; integers are divided towards zero. Empty unless the number of places is written
  /// there.
  [[nodiscard]] static std::string rounded(const Node& node, const std::string& units) {
    std::int64_t step = Decimal::kScale;
    if (node.args.size() > 1) {
      const Node& places = node.args[1];
      if (places.op != Op::number_literal || places.number < 0) return "";
      for (std::int64_t i = 0; i < places.number / Decimal::kScale && step > 1; ++i) step /= 10;
    }
    return fmt::format("(({0} + CASE WHEN {0} < 0 THEN {2} ELSE {1} END) / {3} * {3})", units, step / 2,
                       -(step / 2), step);
  }

  const SqlScope& scope_;
  const Dialect& dialect_;
};

}  // namespace

std::string name_in_sql(const expression::RowView& view, std::size_t column) {
  constexpr std::size_t kLongest = 63;
  const std::string& name = view.columns[column].name;
  return name.size() > kLongest ? fmt::format("pear_column_{}", column) : column_in_sql(name);
}

std::string column_in_sql(std::string_view name) {
  namespace role = daybook::role;
  static constexpr std::array<std::string_view, 15> kOwn = {
      role::kCustomerId, role::kOrderId, role::kProductId, role::kOrderDate,   role::kOrderTime,
      role::kQuantity,   role::kAmount,  role::kUnitPrice, role::kUnitCost,    role::kListPrice,
      role::kIsReturn,   role::kIsFee,   "margin",         "first_order_date", "last_order_date"};
  return std::find(kOwn.begin(), kOwn.end(), name) == kOwn.end() ? database::sql_name(name)
                                                                 : std::string(name);
}

OrError<std::string> sql_of_checked(const Node& node, const SqlScope& scope) {
  return Writer(scope).of(node);
}

OrError<std::string> sql_of(const Node& node, const SqlScope& scope) {
  Node typed = node;
  PEAR_TRY(expression::check_types(typed, scope.view));
  return sql_of_checked(typed, scope);
}

}  // namespace pear::pushdown
