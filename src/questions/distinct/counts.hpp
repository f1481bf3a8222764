// The counts of distinct: distinct values in cells.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "analysis/question_input.hpp"
#include "base/decimal.hpp"
#include "base/error.hpp"
#include "daybook/walk_lines.hpp"
#include "expression/aggregate/grouping.hpp"
#include "expression/rows/line_view.hpp"
#include "questions/distinct/options.hpp"

namespace pear::distinct {

/// What is counted, and the cells in which it is counted: one for each combination of the values of --per.
struct Keys {
  expression::GroupKey counted;
  std::vector<expression::GroupKey> per;
  std::uint32_t cells = 1;
  std::vector<std::uint32_t> cell_of_line;        ///< if there are several keys
  std::vector<std::vector<std::uint32_t>> codes;  ///< by key, then by cell

  [[nodiscard]] std::uint32_t cell_of(const daybook::LinePlace& place) const {
    if (per.empty()) return 0;
    return cell_of_line.empty() ? per.front().codes[place.member(per.front().level)]
                                : cell_of_line[place.line];
  }
  /// A cell belongs to only one customer.
  [[nodiscard]] bool cells_are_of_customers() const;
  /// A pair of a cell and a value belongs to only one customer.
  [[nodiscard]] bool pairs_are_of_customers() const;
};

/// The counts of one cell; all 0 if there is no purchase.
struct CellFacts {
  std::uint32_t distinct = 0, orders = 0, lines = 0;
};

/// One of the values that were counted in a cell.
struct Member {
  std::uint32_t cell = 0, code = 0;
  std::int32_t first_day = INT32_MAX, last_day = INT32_MIN;
  std::uint32_t orders = 0;
  DecimalSum amount;  ///< net of returned lines
};

/// Everything that distinct computes.
struct Counts {
  Options options;
  const daybook::Daybook& daybook;  ///< borrowed
  Keys keys;
  std::uint64_t without_value =
      0;  ///< lines, orders, customers or products that the expression has no value for
  std::vector<CellFacts> facts;     ///< by cell
  std::vector<std::uint32_t> rows;  ///< cells with a purchase, largest first, times in their order
  std::vector<Member> members;      ///< with --list, in order of cell, then of the value

  /// "product", "products", "customer_id"; for what is counted, and for what it is counted in.
  [[nodiscard]] std::string counted_name() const;
  [[nodiscard]] std::string counted_noun(std::uint64_t count) const;
  [[nodiscard]] std::string per_noun() const;
  [[nodiscard]] std::string per_plural() const;
  /// "C101", "North / 2024"
  [[nodiscard]] std::string label(std::uint32_t cell) const;
};

/// Cells with a purchase: largest first, times in their order.
[[nodiscard]] std::vector<std::uint32_t> ordered_rows(const Keys& keys, const std::vector<CellFacts>& facts);

/// How many cells with a purchase have each number, from 0 on.
[[nodiscard]] std::vector<std::uint64_t> cells_by_number(const std::vector<CellFacts>& facts);

/// See ask(). Errors: usage, if an expression does not fit.
[[nodiscard]] OrError<Counts> count(const analysis::QuestionInput& input, const Options& options);

}  // namespace pear::distinct
