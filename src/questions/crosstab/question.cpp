#include "questions/crosstab/question.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/expression_option.hpp"
#include "analysis/member_column.hpp"
#include "analysis/time_keys.hpp"
#include "base/text.hpp"
#include "questions/crosstab/details.hpp"
#include "questions/crosstab/finding.hpp"
#include "questions/crosstab/rows.hpp"
#include "questions/crosstab/table.hpp"

namespace pear::crosstab {
namespace {

/// The keys of an axis. A year, quarter or month that stands alone on its side has no gaps.
OrError<std::vector<expression::GroupKey>> axis_keys(const std::string& option,
                                                     const std::vector<expression::Tree>& trees,
                                                     const expression::LineView& lines) {
  PEAR_ASSIGN(std::vector<expression::GroupKey> keys, analysis::keys_of(option, trees, lines));
  if (keys.size() == 1) analysis::fill_times(keys.front());
  return keys;
}

OrError<std::vector<expression::GroupedExpression>> figures_of(const std::vector<expression::Tree>& trees,
                                                               const expression::LineView& lines) {
  std::vector<expression::GroupedExpression> figures;
  for (const expression::Tree& tree : trees) {
    auto figure = expression::GroupedExpression::compile(tree, lines);
    if (!figure) return analysis::in_option("show", figure.error());
    figures.push_back(std::move(*figure));
  }
  return figures;
}

std::vector<std::string> names_of(const std::vector<expression::Tree>& trees) {
  std::vector<std::string> names;
  for (const expression::Tree& tree : trees) names.push_back(tree.name);
  return names;
}

/// A table that nobody could open is not begun.
OrError<void> check_size(const Axis& down, const Axis& across, std::size_t figures) {
  constexpr std::size_t kMostColumns = 16'000;  // what spreadsheets hold
  constexpr std::size_t kMostCells = 20'000'000;
  const std::size_t columns = across.places.size() * figures;
  if (columns > kMostColumns)
    return usage_error(
        fmt::format("--across would make {} columns, and {} are the most. Put some of it --down.",
                    with_thousands(static_cast<std::int64_t>(columns)),
                    with_thousands(static_cast<std::int64_t>(kMostColumns))));
  if (columns * down.places.size() > kMostCells)
    return usage_error(
        fmt::format("{} rows and {} columns are too many cells. Select fewer lines, or use --top.",
                    with_thousands(static_cast<std::int64_t>(down.places.size())),
                    with_thousands(static_cast<std::int64_t>(columns))));
  return {};
}

/// Figures that add up must do so over the cells, in every direction.
result::Check adding_up(const Crosstab& crosstab, std::size_t figure) {
  bool holds = true;
  const auto check = [&](const Axis& axis, std::uint32_t place, const auto& at) {
    DecimalSum sum;
    for (const std::uint32_t child : axis.places[place].children) sum.add(Decimal::from_units(at(child)));
    DecimalSum whole;
    whole.add(Decimal::from_units(at(place)));
    if (!axis.places[place].is_leaf()) holds = holds && sum == whole;
  };
  const Axis& down = crosstab.down();
  const Axis& across = crosstab.across();
  for (std::uint32_t row = 0; row < down.places.size(); ++row)
    check(down, row, [&](std::uint32_t place) { return crosstab.figure(figure, place, 0).number; });
  for (std::uint32_t row = 0; row < down.places.size(); ++row) {
    for (std::uint32_t column = 0; column < across.places.size(); ++column)
      check(across, column, [&](std::uint32_t place) { return crosstab.figure(figure, row, place).number; });
  }
  return {fmt::format("{} of all cells add up to the totals and to {}", crosstab.figures()[figure].name(),
                      readable_figure(crosstab, figure, crosstab.figure(figure, 0, 0).number, "")),
          holds};
}

void add_checks(const Crosstab& crosstab, const expression::Grouping& grouping, bool all_rows,
                result::Result& result) {
  std::vector<std::uint64_t> lines(grouping.cells);
  for (const std::uint32_t cell : grouping.cell_of_line) ++lines[cell];
  std::uint64_t sum = 0;
  for (const std::uint64_t count : lines) sum += count;
  result.checks.push_back(
      {fmt::format("every one of the {} is in one cell", counted(result.population.lines, "line")),
       sum == result.population.lines && std::find(lines.begin(), lines.end(), 0U) == lines.end()});
  for (std::size_t i = 0; i < crosstab.figures().size(); ++i) {
    if (all_rows && crosstab.adds_up(i)) result.checks.push_back(adding_up(crosstab, i));
  }
}

void note_rows(const Crosstab& crosstab, const ChosenRows& rows, result::Result& result) {
  if (rows.not_having > 0)
    result.notes.push_back(fmt::format("{} not meet {} and {} not shown; totals include their lines.",
                                       counted(rows.not_having, "row does", "rows do"),
                                       crosstab.options().having->text, rows.not_having == 1 ? "is" : "are"));
  if (rows.gathered > 0)
    result.notes.push_back(fmt::format("{} gathered in \"other\", made from their lines.",
                                       counted(rows.gathered, "row is", "rows are")));
}

/// Figures of which one was asked for shares or running totals that would mislead.
void note_parts(const Crosstab& crosstab, result::Result& result) {
  const Options& options = crosstab.options();
  for (std::size_t i = 0; i < crosstab.figures().size(); ++i) {
    const std::string& name = crosstab.figures()[i].name();
    if (crosstab.adds_up(i)) continue;
    if (!options.shares.empty() && !crosstab.can_share(i))
      result.notes.push_back(
          fmt::format("{} has no shares: it is no sum or count, and its parts make no whole.", name));
    if (!options.shares.empty() && crosstab.can_share(i))
      result.notes.push_back(
          fmt::format("Shares of {} need not add up to 100%: one of them may be in several cells.", name));
    if (options.running)
      result.notes.push_back(fmt::format("{} has no running total: its cells cannot be added up.", name));
  }
}

void note_empty_values(const Crosstab& crosstab, std::uint64_t faults, result::Result& result) {
  for (std::size_t i = 0; i < crosstab.figures().size(); ++i) {
    const auto& aggregates = crosstab.figures()[i].aggregates();
    const auto most = std::max_element(aggregates.begin(), aggregates.end(),
                                       [](const expression::Aggregate& a, const expression::Aggregate& b) {
                                         return a.empty_values() < b.empty_values();
                                       });
    if (most->empty_values() > 0)
      result.notes.push_back(fmt::format("{} passes over {} without a value.", crosstab.figures()[i].name(),
                                         counted(most->empty_values(), daybook::to_text(most->level()))));
  }
  if (faults > 0)
    result.notes.push_back(fmt::format("{} empty, since a figure divides by zero there or is too large.",
                                       counted(faults, "cell is", "cells are")));
}

/// What each name stands for; a ready figure, wherever it is used, in full.
result::Definitions definitions_of(const Options& options) {
  result::Definitions definitions;
  std::string all;
  for (const auto* list : {&options.figures, &options.down, &options.across}) {
    for (const expression::Tree& tree : *list) {
      all += tree.text + " ";
      if (tree.name != tree.text) definitions.emplace_back(tree.name, tree.text);
    }
  }
  for (const std::string& figure : expression::ready_figures()) {
    const bool renamed = std::any_of(definitions.begin(), definitions.end(),
                                     [&](const auto& definition) { return definition.first == figure; });
    if (!renamed && all.find(figure) != std::string::npos)
      definitions.emplace_back(figure, expression::ready_figure(figure));
  }
  return definitions;
}

}  // namespace

OrError<result::Result> ask(const analysis::QuestionInput& asked, const Options& options) {
  const expression::LineView lines(asked.daybook, asked.grains);
  PEAR_ASSIGN(std::vector<expression::GroupKey> keys, axis_keys("down", options.down, lines));
  PEAR_ASSIGN(std::vector<expression::GroupKey> across_keys, axis_keys("across", options.across, lines));
  PEAR_ASSIGN(std::vector<expression::GroupedExpression> figures, figures_of(options.figures, lines));
  std::vector<expression::GroupKey> all_keys = keys;
  all_keys.insert(all_keys.end(), across_keys.begin(), across_keys.end());
  const expression::Grouping grouping = expression::group_lines(asked.daybook, all_keys);
  all_keys.clear();
  Axis down = make_axis(names_of(options.down), std::move(keys), grouping, 0);
  Axis across = make_axis(names_of(options.across), std::move(across_keys), grouping, options.down.size());
  PEAR_ASSIGN(ChosenRows rows, choose_rows(std::move(down), grouping, lines, options, figures));
  PEAR_TRY(check_size(rows.axis, across, figures.size()));
  PEAR_ASSIGN(Cube cube, Cube::compute(grouping, rows.axis, across, figures));
  const std::uint64_t faults = cube.faults();
  const Crosstab crosstab(std::move(rows.axis), std::move(across), std::move(figures), std::move(cube),
                          options);

  result::Result result;
  result.question = "crosstab";
  result.population = asked.population;
  result.definitions = definitions_of(options);
  result.headline = headline_of(crosstab, asked.currency);
  result.tables = {wide_table(crosstab, asked.currency), long_table(crosstab)};
  result.figures = figures_of(crosstab, asked.currency);
  for (result::Figure& figure : result.figures) {
    figure.title = result.headline.front();
    figure.subtitle += fmt::format("; {}", counted(result.population.customers, "customer"));
  }
  add_checks(crosstab, grouping, rows.not_having == 0, result);
  note_rows(crosstab, rows, result);
  note_parts(crosstab, result);
  note_empty_values(crosstab, faults, result);
  if (!options.details.empty()) PEAR_TRY(add_details(crosstab, grouping, lines, asked.grains, result));
  return result;
}

}  // namespace pear::crosstab
