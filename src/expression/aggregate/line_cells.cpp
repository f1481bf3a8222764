#include "expression/aggregate/line_cells.hpp"

namespace pear::expression {
namespace {

class DaybookFigure final : public FigureOfCells {
 public:
  explicit DaybookFigure(FigureCells cells) : cells_(std::move(cells)) {}
  [[nodiscard]] OrError<Values> by_group(std::span<const std::uint32_t> group_of_cell, std::uint32_t groups,
                                         FaultCount* faults) const override {
    return cells_.by_group(group_of_cell, groups, faults);
  }

 private:
  FigureCells cells_;
};

}  // namespace

std::vector<std::uint64_t> DaybookCells::lines() const {
  std::vector<std::uint64_t> lines(grouping_.cells);
  for (const std::uint32_t cell : grouping_.cell_of_line) ++lines[cell];
  return lines;
}

OrError<std::vector<std::uint64_t>> DaybookCells::empty_values(
    const std::vector<const Aggregate*>& aggregates) const {
  std::vector<std::uint64_t> counts;
  for (const Aggregate* aggregate : aggregates) counts.push_back(aggregate->empty_values());
  return counts;
}

std::unique_ptr<FigureOfCells> DaybookCells::figure(const GroupedExpression& figure) const {
  return std::make_unique<DaybookFigure>(figure.by_cell(grouping_.cell_of_line, grouping_.cells));
}

}  // namespace pear::expression
