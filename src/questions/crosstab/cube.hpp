// Figures of cells, rows, columns and the total: the data of a cross-tabulation.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/error.hpp"
#include "expression/aggregate/line_cells.hpp"

namespace pear::crosstab {

/// A place on an axis: the total (place 0, depth 0), a value of the first key (depth 1), a value of the
/// second within one of the first, and so on.
struct AxisPlace {
  std::size_t depth = 0;
  std::uint32_t parent = 0;
  std::uint32_t code = 0;  ///< of the key at this depth; not of the total and of `other`
  bool is_other = false;   ///< combines the places that are not kept
  std::string label;
  std::vector<std::uint32_t> children;  ///< in the order in which they are shown

  [[nodiscard]] bool is_leaf() const { return children.empty(); }
};

/// Down or across. An axis without keys has only the total.
struct Axis {
  std::vector<std::string> names;  ///< of the keys
  std::vector<expression::GroupKey> keys;
  std::vector<AxisPlace> places;
  std::vector<std::uint32_t> leaf_of_cell;  ///< the deepest place of each cell

  [[nodiscard]] std::size_t depth() const { return keys.size(); }
  /// Whether there are values of the first key to compare.
  [[nodiscard]] bool has_several() const { return depth() > 0 && places[0].children.size() > 1; }
  /// The ancestor of a leaf at a depth, or the leaf itself; nothing if the leaf is less deep.
  [[nodiscard]] std::optional<std::uint32_t> ancestor(std::uint32_t place, std::size_t depth) const;
  /// The labels of a place and its ancestors from depth 1 on.
  [[nodiscard]] std::vector<std::string> labels(std::uint32_t place) const;
  /// Leaves in the order in which they are shown.
  [[nodiscard]] std::vector<std::uint32_t> leaves() const;
};

/// The axis over keys [first, first + names) of the cells, in the order of their codes.
[[nodiscard]] Axis make_axis(std::vector<std::string> names, std::vector<expression::GroupKey> keys,
                             const expression::LineCells& cells, std::size_t first);

/// A figure in a cell. `has_lines` is false if no line is in the cell: sums and counts are 0 there.
struct CubeCell {
  bool has_lines = false;
  bool filled = false;
  std::int64_t number = 0;  ///< see Values
  std::string_view text;
};

/// All figures for every pair of a place down and a place across.
class Cube {
 public:
  /// Each pair's figures are computed from its own lines. O(lines) for each pair of depths and each
  /// aggregate.
  [[nodiscard]] static OrError<Cube> compute(const expression::LineCells& cells, const Axis& down,
                                             const Axis& across,
                                             const std::vector<expression::GroupedExpression>& figures);

  [[nodiscard]] CubeCell at(std::size_t figure, std::uint32_t down, std::uint32_t across) const;
  /// Cells in which a figure divides by zero or leaves the range of numbers, without totals.
  [[nodiscard]] std::uint64_t faults() const { return faults_; }

 private:
  /// Of a pair in groups_.
  [[nodiscard]] std::size_t position(std::uint32_t down, std::uint32_t across) const {
    return down * across_depths_.size() + across;
  }
  using Figures = std::vector<std::unique_ptr<expression::FigureOfCells>>;
  OrError<void> add(std::uint32_t cells, const Axis& down, const Axis& across, const Figures& figures,
                    std::pair<std::size_t, std::size_t> depths);

  static constexpr std::uint32_t kNoLines = 0xffff'ffff;
  std::vector<std::uint8_t> down_depths_, across_depths_;  ///< by place
  std::size_t depths_across_ = 1;                          ///< of the axis across, with that of the total
  std::vector<std::uint32_t> groups_;  ///< by place down, then by place across; kNoLines if it has none
  /// By pair of depths, then by figure, then by group. The last but one group has no lines.
  std::vector<std::vector<expression::Values>> values_;
  std::uint64_t faults_ = 0;
};

}  // namespace pear::crosstab
