// Expressions of aggregates: the figures of groups.
#pragma once

#include <cstdint>
#include <deque>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "expression/aggregate/aggregate.hpp"
#include "expression/aggregate/measure.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::expression {

/// Figures that could not be computed, in the first `groups` groups.
struct FaultCount {
  std::uint32_t groups = 0;
  std::uint64_t count = 0;
};

class FigureCells;

/// An expression such as "sum(amount) / orders": aggregates, and what is computed from them. Each group's
/// figure is computed from the aggregates of its own lines, for cells and totals alike.
class GroupedExpression {
 public:
  /// The tree's windows must be columns of the lines. Columns may occur within aggregates only; orders,
  /// customers, products and lines are ready figures; figures of `known` (a name and its definition) may be
  /// used too. Errors: usage and data, see Aggregate::compile.
  /// With `filter`, only lines that meet this condition count.
  [[nodiscard]] static OrError<GroupedExpression> compile(const Tree& tree, const LineView& lines,
                                                          const std::vector<Tree>& known = {},
                                                          const std::optional<Node>& filter = {});

  [[nodiscard]] const std::string& name() const { return name_; }
  [[nodiscard]] ValueType type() const { return outer_.type(); }
  [[nodiscard]] Measure measure() const { return measure_; }
  [[nodiscard]] const std::vector<Aggregate>& aggregates() const { return aggregates_; }

  /// Whether the figures of parts add up to that of the whole, if lines are split by something that depends
  /// on `parts`: each line, order or customer that is counted then belongs to only one part.
  [[nodiscard]] bool adds_up(Grain parts) const;

  /// The figures of groups whose aggregates are known: by aggregate, then by group. See by_group for faults.
  [[nodiscard]] Values of_aggregates(const std::vector<daybook::ColumnValues>& values, std::uint32_t groups,
                                     FaultCount* faults = nullptr) const;
  /// A figure for each group. One that divides by zero or leaves the range of numbers is empty, and counted
  /// in `faults`.
  [[nodiscard]] OrError<Values> by_group(const LineGroups& groups, FaultCount* faults = nullptr) const;
  /// The aggregates of each cell, from which groups of cells can be computed repeatedly. O(lines) for each
  /// aggregate. Borrows the figure and the array.
  [[nodiscard]] FigureCells by_cell(std::span<const std::uint32_t> cell_of_line, std::uint32_t cells) const;

 private:
  friend class FigureCells;
  explicit GroupedExpression(Expression outer) : outer_(std::move(outer)) {}
  Expression outer_;  ///< over a view whose columns are the aggregates
  std::string name_;
  Measure measure_ = Measure::number;
  bool is_linear_ = false;  ///< computed from aggregates by + and - only
  std::vector<Aggregate> aggregates_;
};

/// The aggregates of a figure in each cell.
class FigureCells {
 public:
  /// A figure for each group of cells: see GroupedExpression::by_group.
  [[nodiscard]] OrError<Values> by_group(std::span<const std::uint32_t> group_of_cell, std::uint32_t groups,
                                         FaultCount* faults = nullptr) const;

 private:
  friend class GroupedExpression;
  explicit FigureCells(const GroupedExpression& figure) : figure_(figure) {}
  const GroupedExpression& figure_;
  std::vector<CellTotals> totals_;  ///< by aggregate
};

}  // namespace pear::expression
