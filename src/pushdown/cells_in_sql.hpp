// The cells of lines in a database.
#pragma once

#include <cstdint>
#include <memory>
#include <vector>

#include "base/error.hpp"
#include "expression/aggregate/line_cells.hpp"
#include "pushdown/grouped_lines.hpp"

namespace pear::pushdown {

/// See LineCells. Figures that add up over the keys are read once for each cell, and groups of cells are
/// computed from them; others are computed in the database for each grouping of the cells.
class SqlCells final : public expression::LineCells {
 public:
  /// Reads the cells. Times between the first and the last one of an axis of one key are added to its labels:
  /// the axes are the first `down` keys and the others. Errors: see group_lines.
  [[nodiscard]] static OrError<SqlCells> read(const SelectedLines& lines, std::vector<SqlKey> keys,
                                              std::size_t down);

  [[nodiscard]] std::uint32_t size() const override { return cells_.groups; }
  [[nodiscard]] const std::vector<std::vector<std::uint32_t>>& codes() const override { return codes_; }
  [[nodiscard]] std::vector<std::uint64_t> lines() const override { return cells_.lines; }
  [[nodiscard]] OrError<std::vector<std::uint64_t>> empty_values(
      const std::vector<const expression::Aggregate*>& aggregates) const override;
  [[nodiscard]] std::unique_ptr<expression::FigureOfCells> figure(
      const expression::GroupedExpression& figure) const override;
  /// With their labels.
  [[nodiscard]] const std::vector<expression::GroupKey>& labels() const { return labels_; }

 private:
  SqlCells(const SelectedLines& lines, std::vector<SqlKey> keys) : lines_(lines), keys_(std::move(keys)) {}
  const SelectedLines& lines_;
  std::vector<SqlKey> keys_;
  GroupedLines cells_;
  std::vector<expression::GroupKey> labels_;       ///< with the times that have no lines
  std::vector<std::vector<std::uint32_t>> codes_;  ///< of these labels
};

}  // namespace pear::pushdown
