#include "questions/crosstab/finding.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "questions/crosstab/headline.hpp"

namespace pear::crosstab {
namespace {

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

void note_rows(const Counts& counts, result::Result& result) {
  if (counts.not_having > 0)
    result.notes.push_back(fmt::format("{} not meet {} and {} not shown; totals include their lines.",
                                       counted(counts.not_having, "row does", "rows do"),
                                       counts.crosstab.options().having->text,
                                       counts.not_having == 1 ? "is" : "are"));
  if (counts.gathered > 0)
    result.notes.push_back(fmt::format("{} combined in \"other\", computed from their lines.",
                                       counted(counts.gathered, "row is", "rows are")));
  if (counts.combined_columns > 0)
    result.notes.push_back(fmt::format(
        "{} combined in \"other\", because there are too many for a table: those with the largest "
        "{} are kept.",
        counted(counts.combined_columns, "column is", "columns are"),
        counts.crosstab.figures().front().name()));
}

/// Figures for which shares or running totals were requested but would mislead.
void note_parts(const Crosstab& crosstab, result::Result& result) {
  const Options& options = crosstab.options();
  for (std::size_t i = 0; i < crosstab.figures().size(); ++i) {
    const std::string& name = crosstab.figures()[i].name();
    if (crosstab.adds_up(i)) continue;
    if (!options.shares.empty() && !crosstab.can_share(i))
      result.notes.push_back(fmt::format("{} has no shares: its cells do not add up to the whole.", name));
    if (!options.shares.empty() && crosstab.can_share(i))
      result.notes.push_back(
          fmt::format("Shares of {} need not add up to 100%: one of them may be in several cells.", name));
    if (options.running)
      result.notes.push_back(fmt::format("{} has no running total: its cells cannot be added up.", name));
  }
}

void note_empty_values(const Counts& counts, result::Result& result) {
  const Crosstab& crosstab = counts.crosstab;
  for (std::size_t i = 0; i < crosstab.figures().size(); ++i) {
    const std::vector<std::uint64_t>& empty = counts.empty_values[i];
    const auto [least, most] = std::minmax_element(empty.begin(), empty.end());
    const daybook::Level level =
        crosstab.figures()[i].aggregates()[static_cast<std::size_t>(most - empty.begin())].level();
    if (*least < *most)
      result.notes.push_back(fmt::format(
          "{}: {} without a value: left out of one of its aggregates, not of the others. FILTER (WHERE ... "
          "IS NOT "
          "NULL) in the others leaves them out, too.",
          crosstab.figures()[i].name(), counted(*most, daybook::to_text(level))));
    else if (*most > 0)
      result.notes.push_back(fmt::format("{} leaves out {} without a value.", crosstab.figures()[i].name(),
                                         counted(*most, daybook::to_text(level))));
  }
  if (counts.faults > 0)
    result.notes.push_back(fmt::format("{} empty, because a figure divides by zero there or is too large.",
                                       counted(counts.faults, "cell is", "cells are")));
}

}  // namespace

void add_checks(const Counts& counts, result::Result& result) {
  const std::vector<std::uint64_t>& lines = counts.lines;
  const Crosstab& crosstab = counts.crosstab;
  std::uint64_t sum = 0;
  for (const std::uint64_t count : lines) sum += count;
  result.checks.push_back(
      {fmt::format("each of the {} is in exactly one cell", counted(result.population.lines, "line")),
       sum == result.population.lines && std::find(lines.begin(), lines.end(), 0U) == lines.end()});
  for (std::size_t i = 0; i < crosstab.figures().size(); ++i) {
    if (counts.not_having == 0 && crosstab.adds_up(i)) result.checks.push_back(adding_up(crosstab, i));
  }
}

void add_notes(const Counts& counts, result::Result& result) {
  note_rows(counts, result);
  if (counts.crosstab.growth())
    for (const std::string& note : counts.crosstab.growth()->notes) result.notes.push_back(note);
  note_parts(counts.crosstab, result);
  note_empty_values(counts, result);
}

/// The definition of each name; ready figures are always written out in full.
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

}  // namespace pear::crosstab
