// Aggregates of groups of lines.
#include "expression/aggregate/aggregate.hpp"

#include <numeric>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "expression/aggregate/grouped.hpp"
#include "expression/rows/line_view.hpp"
#include "expression/syntax/parse.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// The figures of lines in two groups, in the order of the array.
std::vector<std::int64_t> figures_of(const expression::GroupedExpression& figure,
                                     const std::vector<std::uint32_t>& cell_of_line) {
  const std::vector<std::uint32_t> itself = {0, 1};
  return figure.by_group({cell_of_line, itself, 2})->numbers;
}

/// An array that contains another grouping is a different one, although it has the same address.
RC_GTEST_PROP(Aggregate, GroupsInReusedMemoryAreRecomputed, ()) {
  const daybook::Daybook daybook = build(random_sales()).daybook;
  const expression::LineView lines(daybook);
  for (const char* text : {"sum(amount)", "count(*)", "count(distinct customer_id)", "max(amount)"}) {
    const auto figure = expression::GroupedExpression::compile(*expression::parse_tree(text), lines);
    RC_ASSERT(figure.has_value());
    std::vector<std::uint32_t> cells(daybook.lines());
    for (int again = 0; again < 3; ++again) {
      for (std::uint32_t& cell : cells) cell = static_cast<std::uint32_t>(pick(0, 1));
      const auto fresh = expression::GroupedExpression::compile(*expression::parse_tree(text), lines);
      RC_ASSERT(figures_of(*figure, cells) == figures_of(*fresh, std::vector<std::uint32_t>(cells)));
    }
  }
}

/// Totals computed from cells equal those computed from lines.
RC_GTEST_PROP(Aggregate, TotalsFromCellsEqualTotalsFromLines, ()) {
  const daybook::Daybook daybook = build(random_sales()).daybook;
  const expression::LineView lines(daybook);
  const auto figure = expression::GroupedExpression::compile(
      *expression::parse_tree("sum(amount) / count(distinct order_id)"), lines);
  RC_ASSERT(figure.has_value());
  std::vector<std::uint32_t> cells(daybook.lines());
  for (std::uint32_t& cell : cells) cell = static_cast<std::uint32_t>(pick(0, 4));
  const expression::FigureCells by_cell = figure->by_cell(cells, 5);
  for (const std::vector<std::uint32_t>& groups :
       {std::vector<std::uint32_t>{0, 1, 0, 1, 0}, {1, 1, 1, 0, 0}, {0, 0, 0, 0, 0}}) {
    const auto from_cells = by_cell.by_group(groups, 2);
    const auto from_lines = figure->by_group({cells, groups, 2});
    RC_ASSERT(from_cells->numbers == from_lines->numbers);
    RC_ASSERT(from_cells->states == from_lines->states);
  }
}

}  // namespace
}  // namespace pear::test
