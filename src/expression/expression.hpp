// Expressions over the columns of a view: value expressions and conditions, as a subset of SQL.
#pragma once

#include <cstdint>
#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"
#include "expression/rows/row_view.hpp"
#include "expression/rows/values.hpp"
#include "expression/syntax/node.hpp"

namespace pear::expression {

/// An expression whose names and types were checked against a view. It can be evaluated over that view, or
/// over any other with the same columns in the same positions; several threads may do so at once.
class Expression {
 public:
  /// The number of rows evaluated together: few enough that their values stay in the processor's cache.
  static constexpr std::size_t kBlock = 4096;

  /// Errors: usage, saying what is wrong and where in the text.
  [[nodiscard]] static OrError<Expression> compile(std::string_view text, const RowView& view);
  /// The same for a tree whose windows are columns of the view; `text` is how it was written.
  [[nodiscard]] static OrError<Expression> compile(const Node& root, std::string_view text,
                                                   const RowView& view);
  /// The same, and it must be a condition.
  [[nodiscard]] static OrError<Expression> compile_condition(std::string_view text, const RowView& view);
  [[nodiscard]] static OrError<Expression> compile_condition(const Node& root, std::string_view text,
                                                             const RowView& view);

  [[nodiscard]] ValueType type() const { return root_.type; }
  [[nodiscard]] const std::string& text() const { return text_; }
  /// Whether it is the name of a column and nothing else.
  [[nodiscard]] bool is_column() const { return root_.op == Op::column; }
  /// Positions in the view of the columns it uses.
  [[nodiscard]] const std::set<std::size_t>& columns() const { return columns_; }
  /// What its values depend on.
  [[nodiscard]] Grain grain() const { return grain_; }

  /// The values of rows [begin, end), which may hold faults.
  [[nodiscard]] Values evaluate(const RowView& view, std::size_t begin, std::size_t end) const;

  /// Values without faults. Error: data, naming the expression and the first row at fault (from 1).
  [[nodiscard]] OrError<Values> evaluate_checked(const RowView& view, std::size_t begin,
                                                 std::size_t end) const;

 private:
  std::string text_;
  Node root_;
  std::set<std::size_t> columns_;
  Grain grain_ = grain::kConstant;
};

/// The value of a condition in a row.
enum class Truth : std::uint8_t { not_true, is_true, fault };

/// All rows, on all threads.
[[nodiscard]] std::vector<Truth> truths(const Expression& condition, const RowView& view);

/// Per row 1 where the condition is true, 0 where it is false or unknown. All rows, on all threads.
/// Error: data, see evaluate_checked.
[[nodiscard]] OrError<std::vector<std::uint8_t>> rows_where(const Expression& condition, const RowView& view);

/// Codes of the values: equal for equal values, kEmptyCode for an empty one.
/// An expression of one text column is evaluated once for each of its distinct texts.
[[nodiscard]] OrError<std::vector<std::uint32_t>> codes_of(const Expression& expression, const RowView& view);

}  // namespace pear::expression
