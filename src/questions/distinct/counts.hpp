// Counting different values in cells.
#pragma once

#include <cstdint>
#include <vector>

#include "daybook/walk_lines.hpp"
#include "expression/aggregate/grouping.hpp"
#include "expression/rows/line_view.hpp"
#include "questions/distinct/question.hpp"

namespace pear::distinct {

/// What is counted, and the cells in which it is: a cell for each combination of the values of --per.
struct Keys {
  expression::GroupKey counted;
  std::vector<expression::GroupKey> per;
  std::uint32_t cells = 1;
  std::vector<std::uint32_t> cell_of_line;        ///< where there are several keys
  std::vector<std::vector<std::uint32_t>> codes;  ///< by key, then by cell

  [[nodiscard]] std::uint32_t cell_of(const daybook::LinePlace& place) const {
    if (per.empty()) return 0;
    return cell_of_line.empty() ? per.front().codes[place.member(per.front().level)]
                                : cell_of_line[place.line];
  }
  /// A cell is of one customer alone.
  [[nodiscard]] bool cells_are_of_customers() const;
  /// A pair of a cell and a value is of one customer alone.
  [[nodiscard]] bool pairs_are_of_customers() const;
};

/// Errors: usage, see Options.
[[nodiscard]] OrError<Keys> distinct_keys(const Options& options, const expression::LineView& lines);

struct CellFacts {
  std::uint32_t distinct = 0, orders = 0, lines = 0;
};

/// By cell; all 0 where no purchase is.
[[nodiscard]] std::vector<CellFacts> count_distinct(const daybook::Daybook& daybook, const Keys& keys);

/// One of the values that were counted in a cell.
struct Member {
  std::uint32_t cell = 0, code = 0;
  std::int32_t first_day = INT32_MAX, last_day = INT32_MIN;
  std::uint32_t orders = 0;
  DecimalSum amount;  ///< returned lines taken off
};

/// In order of cell, then of the value's code. Needs amount.
[[nodiscard]] std::vector<Member> list_members(const daybook::Daybook& daybook, const Keys& keys);

}  // namespace pear::distinct
