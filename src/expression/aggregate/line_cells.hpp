// The cells of lines, wherever the lines are: in a daybook, or in a database.
#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <utility>
#include <vector>

#include "base/error.hpp"
#include "expression/aggregate/grouped.hpp"
#include "expression/aggregate/grouping.hpp"

namespace pear::expression {

/// A figure of groups of cells.
class FigureOfCells {
 public:
  virtual ~FigureOfCells() = default;
  /// See GroupedExpression::by_group.
  [[nodiscard]] virtual OrError<Values> by_group(std::span<const std::uint32_t> group_of_cell,
                                                 std::uint32_t groups,
                                                 FaultCount* faults = nullptr) const = 0;
};

/// Cells are the combinations of codes of some keys that occur, in their order.
class LineCells {
 public:
  virtual ~LineCells() = default;
  [[nodiscard]] virtual std::uint32_t size() const = 0;
  /// By key, then by cell.
  [[nodiscard]] virtual const std::vector<std::vector<std::uint32_t>>& codes() const = 0;
  /// The number of lines, by cell.
  [[nodiscard]] virtual std::vector<std::uint64_t> lines() const = 0;
  /// Of each aggregate: see Aggregate::empty_values.
  [[nodiscard]] virtual OrError<std::vector<std::uint64_t>> empty_values(
      const std::vector<const Aggregate*>& aggregates) const = 0;
  /// Borrows the figure and the cells.
  [[nodiscard]] virtual std::unique_ptr<FigureOfCells> figure(const GroupedExpression& figure) const = 0;
};

/// The cells of a daybook's lines. Borrows the grouping.
class DaybookCells final : public LineCells {
 public:
  explicit DaybookCells(const Grouping& grouping) : grouping_(grouping) {}
  [[nodiscard]] std::uint32_t size() const override { return grouping_.cells; }
  [[nodiscard]] const std::vector<std::vector<std::uint32_t>>& codes() const override {
    return grouping_.codes;
  }
  [[nodiscard]] std::vector<std::uint64_t> lines() const override;
  [[nodiscard]] OrError<std::vector<std::uint64_t>> empty_values(
      const std::vector<const Aggregate*>& aggregates) const override;
  [[nodiscard]] std::unique_ptr<FigureOfCells> figure(const GroupedExpression& figure) const override;

 private:
  const Grouping& grouping_;
};

}  // namespace pear::expression
