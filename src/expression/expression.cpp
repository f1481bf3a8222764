#include "expression/expression.hpp"

#include <algorithm>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "base/text.hpp"
#include "base/text_hash.hpp"
#include "daybook/daybook.hpp"
#include "expression/evaluate/check.hpp"
#include "expression/evaluate/evaluate.hpp"
#include "expression/syntax/parse.hpp"

namespace pear::expression {
namespace {

void collect_columns(const Node& node, std::set<std::size_t>& columns) {
  if (node.op == Op::column) columns.insert(node.column);
  for (const Node& arg : node.args) collect_columns(arg, columns);
}

/// Codes for values, given in order.
class Interner {
 public:
  std::uint32_t code_of(const Values& values, std::size_t row) {
    if (values.states[row] != ValueState::filled) return daybook::kEmptyCode;
    if (values.type != ValueType::text)
      return numbers_.try_emplace(values.numbers[row], static_cast<std::uint32_t>(numbers_.size()))
          .first->second;
    const std::string_view text = values.texts[row];
    const auto found = texts_.find(text);
    if (found != texts_.end()) return found->second;
    const auto code = static_cast<std::uint32_t>(texts_.size());
    texts_.emplace(std::string(text), code);
    return code;
  }

 private:
  absl::flat_hash_map<std::string, std::uint32_t, TextHash, std::equal_to<>> texts_;
  absl::flat_hash_map<std::int64_t, std::uint32_t> numbers_;
};

OrError<std::vector<std::uint32_t>> codes_of_rows(const Expression& expression, const RowView& view) {
  std::vector<std::uint32_t> codes;
  codes.reserve(view.rows);
  Interner interner;
  for (std::size_t begin = 0; begin < view.rows; begin += Expression::kBlock) {
    const std::size_t end = std::min(view.rows, begin + Expression::kBlock);
    PEAR_ASSIGN(const Values values, expression.evaluate_checked(view, begin, end));
    for (std::size_t row = 0; row < values.size(); ++row) codes.push_back(interner.code_of(values, row));
  }
  return codes;
}

/// A text column has codes already.
std::vector<std::uint32_t> own_codes(const ViewColumn& column, const daybook::TextValues& text,
                                     std::size_t rows) {
  if (column.members == nullptr) return text.codes;
  std::vector<std::uint32_t> codes(rows);
  for (std::size_t row = 0; row < rows; ++row)
    codes[row] =
        column.member(row) == daybook::kNoMember ? daybook::kEmptyCode : text.codes[column.member(row)];
  return codes;
}

/// The codes of an expression that depends on one text column only: one for each text, and one for empty.
OrError<std::vector<std::uint32_t>> codes_by_text(const Expression& expression, const RowView& view,
                                                  std::size_t column_position) {
  const ViewColumn& column = view.columns[column_position];
  const auto& text = std::get<daybook::TextValues>(*column.values);
  const auto texts = static_cast<std::uint32_t>(text.dictionary.size());
  std::vector<std::uint32_t> members(texts + 1);
  for (std::uint32_t code = 0; code <= texts; ++code) members[code] = code;
  RowView small = view;
  small.rows = texts + 1;
  daybook::ColumnValues column_values = daybook::TextValues{members, text.dictionary};
  std::get<daybook::TextValues>(column_values).codes.back() = daybook::kEmptyCode;
  small.columns[column_position] = {column.name, &column_values, nullptr};
  PEAR_ASSIGN(const std::vector<std::uint32_t> by_text, codes_of_rows(expression, small));
  std::vector<std::uint32_t> codes(view.rows);
  for (std::size_t row = 0; row < view.rows; ++row) {
    const std::uint32_t member = column.member(row);
    const std::uint32_t code = member == daybook::kNoMember ? daybook::kEmptyCode : text.codes[member];
    codes[row] = by_text[code == daybook::kEmptyCode ? texts : code];
  }
  return codes;
}

}  // namespace

OrError<Expression> Expression::compile(std::string_view text, const RowView& view) {
  PEAR_ASSIGN(const Node root, parse_expression(text));
  return compile(root, text, view);
}

OrError<Expression> Expression::compile(const Node& root, std::string_view text, const RowView& view) {
  Expression expression;
  expression.text_ = std::string(text);
  expression.root_ = root;
  PEAR_TRY(check_types(expression.root_, view));
  collect_columns(expression.root_, expression.columns_);
  for (const std::size_t column : expression.columns_) expression.grain_ |= view.columns[column].grain;
  return expression;
}

OrError<Expression> Expression::compile_condition(std::string_view text, const RowView& view) {
  PEAR_ASSIGN(const Node root, parse_expression(text));
  return compile_condition(root, text, view);
}

OrError<Expression> Expression::compile_condition(const Node& root, std::string_view text,
                                                  const RowView& view) {
  PEAR_ASSIGN(Expression expression, compile(root, text, view));
  if (expression.type() != ValueType::truth)
    return usage_error(
        fmt::format("{} is not a condition: {}", in_quotes(text), described(expression.root_)));
  return expression;
}

Values Expression::evaluate(const RowView& view, std::size_t begin, std::size_t end) const {
  return evaluate_node(root_, view, begin, end);
}

OrError<Values> Expression::evaluate_checked(const RowView& view, std::size_t begin, std::size_t end) const {
  Values values = evaluate(view, begin, end);
  for (std::size_t row = 0; row < values.size(); ++row) {
    if (values.states[row] == ValueState::fault)
      return data_error(
          fmt::format("{} divides by zero, leaves the range of numbers or dates, or uses a negative length, "
                      "first in row {}. Use CASE WHEN ... to exclude such rows.",
                      in_quotes(text_), begin + row + 1));
  }
  return values;
}

std::vector<Truth> truths(const Expression& condition, const RowView& view) {
  std::vector<Truth> result(view.rows);
  const std::size_t blocks = (view.rows + Expression::kBlock - 1) / Expression::kBlock;
  tbb::parallel_for(std::size_t{0}, blocks, [&](std::size_t block) {
    const std::size_t begin = block * Expression::kBlock;
    const std::size_t end = std::min(view.rows, begin + Expression::kBlock);
    const Values values = condition.evaluate(view, begin, end);
    for (std::size_t row = 0; row < values.size(); ++row) {
      if (values.states[row] == ValueState::fault) {
        result[begin + row] = Truth::fault;
      } else if (values.is_true(row)) {
        result[begin + row] = Truth::is_true;
      }
    }
  });
  return result;
}

OrError<std::vector<std::uint8_t>> rows_where(const Expression& condition, const RowView& view) {
  const std::vector<Truth> found = truths(condition, view);
  std::vector<std::uint8_t> chosen(view.rows);
  for (std::size_t row = 0; row < view.rows; ++row) {
    if (found[row] == Truth::fault) PEAR_TRY(condition.evaluate_checked(view, row, row + 1));
    chosen[row] = found[row] == Truth::is_true ? 1 : 0;
  }
  return chosen;
}

OrError<std::vector<std::uint32_t>> codes_of(const Expression& expression, const RowView& view) {
  if (expression.columns().size() == 1) {
    const std::size_t column = *expression.columns().begin();
    const auto* text = std::get_if<daybook::TextValues>(view.columns[column].values);
    if (text != nullptr && expression.is_column()) return own_codes(view.columns[column], *text, view.rows);
    if (text != nullptr && text->dictionary.size() < view.rows)
      return codes_by_text(expression, view, column);
  }
  return codes_of_rows(expression, view);
}

}  // namespace pear::expression
