// Aggregates over the lines of each group. They respect levels.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "expression/rows/column_of.hpp"
#include "expression/syntax/node.hpp"

namespace pear::expression {

/// The group of each line: that of the line's cell.
struct LineGroups {
  std::span<const std::uint32_t> cell_of_line;
  std::span<const std::uint32_t> group_of_cell;
  std::uint32_t groups = 0;
};

class Aggregate;

/// The values of an aggregate for the lines of each cell. Members that may be in several cells (orders,
/// customers, products) are counted again for each grouping of the cells.
class CellTotals {
 public:
  /// A value for each group of cells: see Aggregate::by_group. O(cells), or O(lines) if members are counted
  /// again.
  [[nodiscard]] OrError<daybook::ColumnValues> by_group(std::span<const std::uint32_t> group_of_cell,
                                                        std::uint32_t groups) const;

 private:
  friend class Aggregate;
  CellTotals(const Aggregate& aggregate, std::span<const std::uint32_t> cell_of_line)
      : aggregate_(aggregate), cell_of_line_(cell_of_line) {}

  const Aggregate& aggregate_;
  std::span<const std::uint32_t> cell_of_line_;
  std::shared_ptr<const void> accumulator_;  ///< by cell; none if members are counted again
};

/// COUNT, SUM, AVG, MIN, MAX, MEDIAN, PERCENTILE_CONT or STDDEV of an expression, bound to lines. Each member
/// is counted once in a group: a line, or an order, customer, product, or a pair of one of these with a
/// product, depending on the columns of the expression. With FILTER only those count that have a line in the
/// group that meets the condition. Empty values are ignored.
class Aggregate {
 public:
  /// The node must be an aggregate. Errors: usage, naming the columns; data, if the argument divides by zero
  /// or leaves the range of numbers.
  [[nodiscard]] static OrError<Aggregate> compile(const Node& node, const LineView& lines);

  [[nodiscard]] ValueType type() const;
  /// The grain of what is counted once: the least that the argument depends on.
  [[nodiscard]] Grain grain() const { return grain_; }
  /// Whether it is a sum or a count at this grain, so that parts without a common member add up.
  [[nodiscard]] bool adds_up() const { return op_ <= Op::sum && op_ != Op::count_distinct; }

  /// The values of each cell's lines, from which groups of cells can be computed repeatedly. O(lines) on all
  /// threads. Borrows the aggregate and the array.
  [[nodiscard]] CellTotals by_cell(std::span<const std::uint32_t> cell_of_line, std::uint32_t cells) const;
  /// A value for each group. Without values, sums and counts are 0, and everything else is empty. Averages,
  /// and medians between two values, are rounded half away from zero to four places. O(lines) on all threads.
  /// Error: data, if a value leaves the range of Decimal.
  [[nodiscard]] OrError<daybook::ColumnValues> by_group(const LineGroups& groups) const;

  /// Lines, or members of the level with lines, whose argument is empty.
  [[nodiscard]] std::uint64_t empty_values() const { return empty_values_; }
  [[nodiscard]] daybook::Level level() const { return argument_.level; }
  /// As written.
  [[nodiscard]] const Node& node() const { return node_; }

 private:
  Aggregate() = default;
  void count_empty_values();
  [[nodiscard]] OrError<void> bind_argument(const Node& node, const LineView& lines);
  [[nodiscard]] OrError<void> bind_filter(const Node& node, const LineView& lines);
  [[nodiscard]] OrError<daybook::ColumnValues> result_of(std::vector<std::int64_t> values) const;
  friend class CellTotals;
  template <class Use>
  [[nodiscard]] auto with_accumulator(const Use& use) const;

  const daybook::Daybook* daybook_ = nullptr;
  Node node_;
  Op op_ = Op::count_rows;
  std::int64_t share_ = 0;  ///< of PERCENTILE_CONT and MEDIAN, units of Decimal
  std::string name_;
  Grain grain_ = grain::kLine;
  MemberColumn argument_;
  std::shared_ptr<std::vector<std::int64_t>> made_ = std::make_shared<std::vector<std::int64_t>>();
  std::span<const std::int64_t> values_;  ///< of the argument, by member of its level
  daybook::Level filter_level_ = daybook::Level::line;
  std::vector<Truth> filter_;  ///< by member; none without FILTER
  std::uint64_t empty_values_ = 0;
};

}  // namespace pear::expression
