// Computes a whole expression as a column.
#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "base/error.hpp"
#include "expression/expression.hpp"
#include "expression/rows/line_view.hpp"

namespace pear::expression {

/// A value for each member of a level: the one with the fewest members that determines the expression.
struct MemberColumn {
  daybook::Level level = daybook::Level::line;
  Grain grain = grain::kLine;
  ValueType type = ValueType::null;
  std::shared_ptr<const daybook::ColumnValues>
      values;  ///< borrowed from the daybook if the expression is one of its columns, unchanged
  std::shared_ptr<daybook::ColumnValues> made;  ///< the same values if they are not borrowed, for their owner
};

/// The values of all rows; the texts of the dictionary are distinct and in natural order. On all threads.
/// Error: data, see Expression::evaluate_checked.
[[nodiscard]] OrError<daybook::ColumnValues> column_of(const Expression& expression, const RowView& rows);

[[nodiscard]] OrError<MemberColumn> column_of(const Expression& expression, const LineView& lines);

/// The values as integers with kEmptyUnits for empty ones: units, days, seconds, 0 or 1; a text is its rank
/// by code point among the texts of the dictionary. Borrowed, or stored in `made`.
[[nodiscard]] std::span<const std::int64_t> as_integers(const daybook::ColumnValues& values,
                                                        std::vector<std::int64_t>& made);

/// The positions of the texts by code point: by_code_point(d)[i] is the i-th smallest.
[[nodiscard]] std::vector<std::uint32_t> by_code_point(const TextArray& texts);

}  // namespace pear::expression
