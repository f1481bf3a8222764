#include "expression/evaluate/check.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "base/text.hpp"

namespace pear::expression {
namespace {

tl::unexpected<Error> fault(const Node& node, const std::string& what) {
  return usage_error(fmt::format("{} (column {})", what, node.at));
}

bool fits(const Node& node, ValueType type) { return node.type == type || node.type == ValueType::null; }

OrError<void> require(const Node& node, ValueType type, std::string_view where) {
  if (fits(node, type)) return {};
  const bool may_cast = node.type == ValueType::text && node.op == Op::column &&
                        (type == ValueType::number || type == ValueType::date);
  const std::string remedy = may_cast ? fmt::format("; if its texts are {}, write CAST({} AS {})",
                                                    type == ValueType::number ? "numbers" : "dates",
                                                    node.text, type == ValueType::number ? "NUMERIC" : "DATE")
                                      : "";
  return fault(node, fmt::format("{} needs {}, but {}{}", where, described(type), described(node), remedy));
}

OrError<void> find_column(Node& node, const RowView& view) {
  node.column = view.find(node.text);
  if (node.column == view.columns.size()) {  // a header may be written as in the file
    const std::string plain = snake_case(node.text);
    node.column = view.find(plain);
  }
  if (node.column < view.columns.size()) {
    node.type = value_type(*view.columns[node.column].values);
    return {};
  }
  std::vector<std::string> names;
  for (const ViewColumn& column : view.columns) names.push_back(column.name);
  return unknown_column(node, names);
}

/// The common type of all values; NULL fits any type.
OrError<ValueType> common_type(const std::vector<const Node*>& values, std::string_view what) {
  const Node* first = nullptr;
  for (const Node* value : values) {
    if (value->type == ValueType::null) continue;
    if (first == nullptr) {
      first = value;
    } else if (first->type != value->type) {
      return fault(*value, fmt::format("{} must be of one type, but {}, and {}", what, described(*first),
                                       described(*value)));
    }
  }
  return first == nullptr ? ValueType::null : first->type;
}

/// A text that is compared with a date is read as one: order_date >= '2024-06-01'.
void read_as_date(Node& text, const Node& other) {
  if (text.op != Op::text_literal || other.type != ValueType::date) return;
  const auto moment = parse_iso_moment(text.text);
  if (!moment || moment->second_of_day != Moment::kNoTime) return;
  text.op = Op::date_literal;
  text.type = ValueType::date;
  text.number = moment->date.days;
}

OrError<void> check_comparison(Node& node) {
  Node& left = node.args.front();
  for (std::size_t i = 1; i < node.args.size(); ++i) {
    Node& right = node.args[i];
    read_as_date(left, right);
    read_as_date(right, left);
    if (left.type == right.type || left.type == ValueType::null || right.type == ValueType::null) continue;
    const std::string whole = described(right);
    std::string other = whole.substr(0, whole.find(" is "));
    if (right.op == Op::column)
      other = fmt::format("{}, which is {}", in_quotes(right.text), described(right.type));
    if (other == "this") other = fmt::format("this calculation, which is {}", described(right.type));
    const bool may_be_date = left.type == ValueType::date && right.type != ValueType::date;
    return fault(right, fmt::format("{}, which cannot be compared with {}{}", described(left), other,
                                    may_be_date ? "; write a date as DATE '2024-06-01'" : ""));
  }
  node.type = ValueType::truth;
  return {};
}

OrError<void> check_arithmetic(Node& node) {
  const ValueType left = node.args[0].type;
  const ValueType right = node.args[1].type;
  const bool is_span = node.args[1].op == Op::days_literal;
  if (left == ValueType::date && (node.op == Op::add || node.op == Op::subtract)) {
    if (is_span) {
      node.type = ValueType::date;
      return {};
    }
    if (node.op == Op::subtract && fits(node.args[1], ValueType::date)) {
      node.type = ValueType::number;
      return {};
    }
    if (right == ValueType::number)
      return fault(node.args[1], "to add days to a date, write INTERVAL '30' DAY instead of a number");
  }
  for (const Node& arg : node.args) {
    PEAR_TRY(require(arg, ValueType::number, "arithmetic"));
    if (arg.op == Op::days_literal)
      return fault(arg, "an INTERVAL can only be added to a date or subtracted from it");
  }
  if (node.op == Op::divide && node.args[1].op == Op::number_literal && node.args[1].number == 0)
    return fault(node.args[1], "nothing can be divided by 0");
  node.type = ValueType::number;
  return {};
}

OrError<void> check_case(Node& node) {
  std::vector<const Node*> values;
  for (std::size_t i = 0; i + 1 < node.args.size(); i += 2) {
    PEAR_TRY(require(node.args[i], ValueType::truth, "WHEN"));
    values.push_back(&node.args[i + 1]);
  }
  values.push_back(&node.args.back());
  PEAR_ASSIGN(node.type, common_type(values, "the values of CASE"));
  return {};
}

OrError<void> input_of(Node& node, ValueType args, std::string_view where, ValueType result) {
  for (const Node& arg : node.args) PEAR_TRY(require(arg, args, where));
  node.type = result;
  return {};
}

OrError<void> check_substring(Node& node) {
  PEAR_TRY(require(node.args[0], ValueType::text, "SUBSTRING"));
  for (std::size_t i = 1; i < node.args.size(); ++i)
    PEAR_TRY(require(node.args[i], ValueType::number, "a position in SUBSTRING"));
  node.type = ValueType::text;
  return {};
}

OrError<void> check_alternatives(Node& node) {
  std::vector<const Node*> values;
  for (const Node& arg : node.args) values.push_back(&arg);
  PEAR_ASSIGN(node.type, common_type(values, node.op == Op::coalesce ? "the values of COALESCE"
                                                                     : "the values of NULLIF"));
  return {};
}

/// Texts become numbers and dates; anything becomes text; and any type becomes itself.
OrError<void> check_cast(Node& node) {
  node.type = node.op == Op::to_number ? ValueType::number
              : node.op == Op::to_date ? ValueType::date
                                       : ValueType::text;
  const Node& value = node.args.front();
  if (node.type == ValueType::text || fits(value, ValueType::text) || fits(value, node.type)) return {};
  return fault(value, fmt::format("CAST makes {} from text, but {}", described(node.type), described(value)));
}

/// The arguments' types have been checked already.
OrError<void> check_node(Node& node, const RowView& view) {
  switch (node.op) {
    case Op::null_literal:
      node.type = ValueType::null;
      return {};
    case Op::text_literal:
      node.type = ValueType::text;
      return {};
    case Op::number_literal:
    case Op::days_literal:
      node.type = ValueType::number;
      return {};
    case Op::date_literal:
      node.type = ValueType::date;
      return {};
    case Op::time_literal:
      node.type = ValueType::time;
      return {};
    case Op::truth_literal:
      node.type = ValueType::truth;
      return {};
    case Op::column:
      return find_column(node, view);
    case Op::current_date:
      if (!view.data_end)
        return fault(node, "CURRENT_DATE is the end of the data, which is not known here; write a DATE");
      node.op = Op::date_literal;
      node.number = view.data_end->days;
      node.type = ValueType::date;
      return {};
    case Op::add:
    case Op::subtract:
    case Op::multiply:
    case Op::divide:
      return check_arithmetic(node);
    case Op::negate:
    case Op::absolute:
    case Op::floor:
    case Op::ceiling:
    case Op::round:
      return input_of(node, ValueType::number, "arithmetic", ValueType::number);
    case Op::concatenate:
      return input_of(node, ValueType::text, "||", ValueType::text);
    case Op::lower:
    case Op::upper:
    case Op::trim:
      return input_of(node, ValueType::text, "this function", ValueType::text);
    case Op::char_length:
      return input_of(node, ValueType::text, "CHAR_LENGTH", ValueType::number);
    case Op::like:
      return input_of(node, ValueType::text, "LIKE", ValueType::truth);
    case Op::substring:
      return check_substring(node);
    case Op::equal:
    case Op::not_equal:
    case Op::less:
    case Op::less_or_equal:
    case Op::greater:
    case Op::greater_or_equal:
    case Op::in_list:
      return check_comparison(node);
    case Op::both:
      return input_of(node, ValueType::truth, "AND", ValueType::truth);
    case Op::either:
      return input_of(node, ValueType::truth, "OR", ValueType::truth);
    case Op::negation:
      return input_of(node, ValueType::truth, "NOT", ValueType::truth);
    case Op::is_null:
      node.type = ValueType::truth;
      return {};
    case Op::case_when:
      return check_case(node);
    case Op::coalesce:
    case Op::null_if:
      return check_alternatives(node);
    case Op::to_number:
    case Op::to_date:
    case Op::to_text:
      return check_cast(node);
    case Op::hour_of:
    case Op::minute_of:
      return input_of(node, ValueType::time, "EXTRACT of hours and minutes", ValueType::number);
    case Op::year_of:
    case Op::quarter_of:
    case Op::month_of:
    case Op::week_of:
    case Op::day_of:
      return input_of(node, ValueType::date, "EXTRACT of days", ValueType::number);
    case Op::count_rows:
    case Op::count_members:
    case Op::count_values:
    case Op::count_distinct:
    case Op::sum:
    case Op::average:
    case Op::minimum:
    case Op::maximum:
    case Op::median:
    case Op::percentile:
    case Op::deviation:
    case Op::population_deviation:
    case Op::row_number:
    case Op::rank:
    case Op::ntile:
      return fault(node, node.is_over ? "OVER is not possible here"
                                      : "an aggregate needs many lines, but this is evaluated for one line "
                                        "at a time; write OVER (PARTITION BY ...) after the aggregate");
  }
  return {};
}

}  // namespace

ValueType value_type(const daybook::ColumnValues& values) {
  switch (static_cast<daybook::ColumnType>(values.index())) {
    case daybook::ColumnType::text:
      return ValueType::text;
    case daybook::ColumnType::decimal:
      return ValueType::number;
    case daybook::ColumnType::date:
      return ValueType::date;
    case daybook::ColumnType::time:
      return ValueType::time;
    case daybook::ColumnType::flag:
      return ValueType::truth;
  }
  return ValueType::null;
}

tl::unexpected<Error> unknown_column(const Node& node, const std::vector<std::string>& known) {
  const std::string suggestion = did_you_mean(node.text, known);
  return fault(node, fmt::format("there is no column {}.{}", in_quotes(node.text),
                                 suggestion.empty() ? " Columns: " + join(known, ", ") + "." : suggestion));
}

std::string_view described(ValueType type) {
  switch (type) {
    case ValueType::null:
      return "NULL";
    case ValueType::text:
      return "text";
    case ValueType::number:
      return "a number";
    case ValueType::date:
      return "a date";
    case ValueType::time:
      return "a time of day";
    case ValueType::truth:
      return "a condition";
  }
  return "";
}

std::string described(const Node& node) {
  switch (node.op) {
    case Op::column:
      return fmt::format("{} is {}", in_quotes(node.text), described(node.type));
    case Op::text_literal:
      return fmt::format("the text '{}' is text", node.text);
    case Op::number_literal:
      return fmt::format("the number {} is a number", Decimal::from_units(node.number).to_text());
    case Op::date_literal:
      return fmt::format("the date {} is a date", to_text(Date{static_cast<std::int32_t>(node.number)}));
    default:
      return fmt::format("this is {}", described(node.type));
  }
}

OrError<void> check_types(Node& node, const RowView& view) {
  for (Node& arg : node.args) PEAR_TRY(check_types(arg, view));
  return check_node(node, view);
}

}  // namespace pear::expression
