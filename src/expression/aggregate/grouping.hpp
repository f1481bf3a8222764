// Assigns lines to cells by the values of expressions.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "expression/rows/column_of.hpp"

namespace pear::expression {

/// The values of one expression as codes in their order: texts naturally, numbers and times by size, false
/// before true. An empty value has the last code, labels.size.
struct GroupKey {
  std::string source;  ///< the expression, in lower case: for a column its name
  daybook::Level level = daybook::Level::line;
  Grain grain = grain::kLine;
  ValueType type = ValueType::null;
  std::vector<std::uint32_t> codes;  ///< by member of the level
  daybook::ColumnValues labels;      ///< by code
  std::uint32_t distinct = 0;        ///< labels, without the empty one
  bool has_gaps_filled = false;      ///< labels that no member has are times between others
};

[[nodiscard]] OrError<GroupKey> group_key(const Expression& expression, const LineView& lines);

/// "North", "2024", "2024-09-30"; "(empty)" for an empty value.
[[nodiscard]] std::string label_text(const GroupKey& key, std::uint32_t code);

/// The cell of each line. Cells are the combinations of codes that occur, ordered by the first key, then the
/// second, and so on.
struct Grouping {
  std::vector<std::uint32_t> cell_of_line;
  std::vector<std::vector<std::uint32_t>> codes;  ///< by key, then by cell
  std::uint32_t cells = 0;
};

/// O(lines) on all threads, and O(cells log cells).
[[nodiscard]] Grouping group_lines(const daybook::Daybook& daybook, const std::vector<GroupKey>& keys);

}  // namespace pear::expression
