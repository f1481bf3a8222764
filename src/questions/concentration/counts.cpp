#include "questions/concentration/counts.hpp"

#include <algorithm>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "analysis/tables/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "daybook/walk_lines.hpp"
#include "expression/aggregate/grouped.hpp"

namespace pear::concentration {
namespace {

/// A cell for each value of the key, with or without lines.
expression::Grouping cells_of(const expression::GroupKey& key, const daybook::Daybook& daybook) {
  expression::Grouping grouping;
  grouping.cells = key.distinct + 1;
  grouping.codes.emplace_back(grouping.cells);
  std::iota(grouping.codes.front().begin(), grouping.codes.front().end(), 0U);
  grouping.cell_of_line.resize(daybook.lines());
  daybook::for_each_customer_run(daybook, [&](daybook::CustomerRun run) {
    daybook::walk_lines(daybook, run, [&](const daybook::LinePlace& place) {
      grouping.cell_of_line[place.line] = key.codes[place.member(key.level)];
    });
  });
  return grouping;
}

/// By cell, 1 if it has a line.
std::vector<std::uint8_t> cells_with_lines(const expression::Grouping& cells) {
  std::vector<std::uint8_t> has_lines(cells.cells);
  for (const std::uint32_t cell : cells.cell_of_line) has_lines[cell] = 1;
  return has_lines;
}

/// Members with a line, ranked by the figure of their lines, for each combination of the values of `by`.
OrError<RankedGroups> rank(const std::string& option, const std::vector<expression::Tree>& by,
                           const expression::GroupKey& of, const expression::GroupedExpression& figure,
                           const expression::LineView& lines) {
  RankedGroups groups;
  PEAR_ASSIGN(groups.keys, analysis::keys_of(option, by, lines));
  for (const expression::Tree& tree : by) groups.names.push_back(tree.name);
  std::vector<expression::GroupKey> keys = groups.keys;
  keys.push_back(of);
  const expression::Grouping cells =
      by.empty() ? cells_of(of, lines.daybook()) : expression::group_lines(lines.daybook(), keys);
  const std::vector<std::uint8_t> has_lines = cells_with_lines(cells);
  std::vector<std::uint32_t> itself(cells.cells);
  std::iota(itself.begin(), itself.end(), 0U);
  PEAR_ASSIGN(const expression::Values values, figure.by_group({cells.cell_of_line, itself, cells.cells}));
  groups.codes.resize(by.size());
  for (std::uint32_t begin = 0; begin < cells.cells;) {  // cells of one combination are neighbours
    const auto same = [&](std::uint32_t cell) {
      for (std::size_t i = 0; i < by.size(); ++i)
        if (cells.codes[i][cell] != cells.codes[i][begin]) return false;
      return true;
    };
    std::vector<Ranked> members;
    std::uint32_t end = begin;
    for (; end < cells.cells && same(end); ++end) {
      const bool filled = values.states[end] == expression::ValueState::filled;
      if (has_lines[end] != 0) members.push_back({cells.codes.back()[end], filled ? values.numbers[end] : 0});
    }
    for (std::size_t i = 0; i < by.size(); ++i) groups.codes[i].push_back(cells.codes[i][begin]);
    groups.rankings.emplace_back(std::move(members));
    begin = end;
  }
  return groups;
}

/// The figure over all lines, if it adds up over what is ranked.
std::optional<std::int64_t> whole_of(const Counts& counts, const expression::GroupedExpression& figure) {
  expression::Grain parts = counts.of.grain;
  for (const expression::GroupKey& key : counts.groups.keys) parts |= key.grain;
  if (!figure.adds_up(parts)) return std::nullopt;
  const std::vector<std::uint32_t> one_cell(counts.daybook.lines(), 0);
  const std::vector<std::uint32_t> one_group = {0};
  const auto whole = figure.by_group({one_cell, one_group, 1});
  if (!whole) return std::nullopt;
  return whole->numbers[0];
}

result::Unit unit_of(expression::Measure measure) {
  return measure == expression::Measure::money   ? result::Unit::money
         : measure == expression::Measure::count ? result::Unit::count
                                                 : result::Unit::number;
}

}  // namespace

std::string RankedGroups::label(std::size_t group) const {
  std::string label;
  for (std::size_t i = 0; i < keys.size(); ++i)
    label += (i == 0 ? "" : " / ") + expression::label_text(keys[i], codes[i][group]);
  return label;
}

std::string Counts::of_plural() const { return analysis::plural_of(analysis::noun_of(of_name)); }

OrError<expression::GroupedExpression> figure_of(const Options& options, const expression::LineView& lines) {
  auto figure = expression::GroupedExpression::compile(*options.count, lines);
  if (!figure) return analysis::in_option("count", figure.error());
  if (figure->type() != expression::ValueType::number)
    return usage_error(fmt::format("--count: {} is not a number.", in_quotes(options.count->text)));
  return figure;
}

Counts without_groups(const Options& options, const daybook::Daybook& daybook,
                      const expression::GroupedExpression& figure) {
  return {options, daybook, {}, options.per->name, options.count->name, unit_of(figure.measure()),
          {},      {},      {}};
}

OrError<Counts> count(const analysis::QuestionInput& input, const Options& options) {
  const expression::LineView lines(input.daybook, input.grains);
  PEAR_ASSIGN(const expression::GroupedExpression figure, figure_of(options, lines));
  PEAR_ASSIGN(std::vector<expression::GroupKey> of, analysis::keys_of("per", {*options.per}, lines));
  Counts counts = without_groups(options, input.daybook, figure);
  counts.of = std::move(of.front());
  PEAR_ASSIGN(counts.groups, rank("by", options.by, counts.of, figure, lines));
  if (options.compare) {
    PEAR_ASSIGN(counts.compared, rank("compare", {*options.compare}, counts.of, figure, lines));
  }
  counts.whole = whole_of(counts, figure);
  return counts;
}

}  // namespace pear::concentration
