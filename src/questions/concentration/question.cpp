#include "questions/concentration/question.hpp"

#include <algorithm>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include "analysis/expression_option.hpp"
#include "analysis/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "daybook/walk_lines.hpp"
#include "questions/concentration/tables.hpp"

namespace pear::concentration {
namespace {

/// A cell for each value of the key, whether it has lines or not.
expression::Grouping cells_of(const expression::GroupKey& key, const daybook::Daybook& daybook) {
  expression::Grouping grouping;
  grouping.cells = key.distinct + 1;
  grouping.codes.emplace_back(grouping.cells);
  std::iota(grouping.codes.front().begin(), grouping.codes.front().end(), 0U);
  grouping.cell_of_line.resize(daybook.lines());
  daybook::walk_lines_in_parallel(daybook, [&](daybook::CustomerRun run) {
    daybook::walk_lines(daybook, run, [&](const daybook::LinePlace& place) {
      grouping.cell_of_line[place.line] = key.codes[place.member(key.level)];
    });
  });
  return grouping;
}

/// By cell, 1 where it has a line.
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
  groups.cells = by.empty() ? cells_of(of, lines.daybook()) : expression::group_lines(lines.daybook(), keys);
  const std::vector<std::uint8_t> has_lines = cells_with_lines(groups.cells);
  const expression::Grouping& cells = groups.cells;
  std::vector<std::uint32_t> itself(cells.cells);
  std::iota(itself.begin(), itself.end(), 0U);
  PEAR_ASSIGN(const expression::Values values, figure.by_group({cells.cell_of_line, itself, cells.cells}));
  groups.codes.resize(by.size());
  for (std::uint32_t begin = 0; begin < cells.cells;) {  // cells of one combination stand together
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

void add_notes(const Finding& finding, result::Result& result) {
  std::uint64_t members = 0;
  DecimalSum negative;
  for (const Ranking& ranking : finding.groups.rankings) {
    members += ranking.not_positive();
    negative.add(ranking.negative());
  }
  if (members == 0) return;
  const auto total = negative.total();
  result.notes.push_back(fmt::format(
      "{} at 0 or below, {} {} in all: last in rank, and 0 in all shares, classes and the Gini coefficient.",
      counted(members, analysis::noun_of(finding.of_name) + " is", finding.of_plural() + " are"),
      finding.figure_name, total ? with_thousands(*total) : fmt::format("{:.0f}", negative.approximate())));
}

void add_checks(const Finding& finding, const expression::GroupedExpression& figure,
                const expression::LineView& lines, result::Result& result) {
  bool ends_at_all = true;
  DecimalSum sum;
  for (const Ranking& ranking : finding.groups.rankings) {
    const bool any = ranking.positive() != DecimalSum();
    ends_at_all = ends_at_all && (!any || ranking.running_share(ranking.size() - 1) == 1.0);
    sum.add(ranking.positive());
    sum.add(ranking.negative());
  }
  result.checks.push_back({finding.groups.is_split() ? "running shares end at 100% in every ranking"
                                                     : "running shares end at 100%",
                           ends_at_all});
  expression::Grain parts = finding.of.grain;
  for (const expression::GroupKey& key : finding.groups.keys) parts |= key.grain;
  if (!figure.adds_up(parts)) return;
  const std::vector<std::uint32_t> one_cell(lines.daybook().lines(), 0);
  const std::vector<std::uint32_t> one_group = {0};
  const auto whole = figure.by_group({one_cell, one_group, 1});
  if (!whole) return;
  result.checks.push_back({fmt::format("{} of all rows add up to {}", finding.figure_name,
                                       with_thousands(Decimal::from_units(whole->numbers[0]),
                                                      finding.unit == result::Unit::count ? 0 : 2)),
                           sum.total() == Decimal::from_units(whole->numbers[0])});
}

result::Definitions definitions_of(const Finding& finding) {
  const std::string many = finding.of_plural();
  std::string ends;
  for (const std::int64_t end : finding.options.classes)
    ends += (ends.empty() ? "" : ", ") + Decimal::from_units(end).to_text() + "%";
  return {
      {finding.figure_name, finding.options.show->text},
      {"share", fmt::format("of the sum of all {} above 0", finding.figure_name)},
      {"20%", fmt::format("of the {}, rounded up to a whole one", many)},
      {"classes",
       fmt::format("A: the largest up to the one with which the running share reaches {}; then B, C", ends)},
      {"Gini coefficient",
       fmt::format("half of the mean difference between the figures of two {}, as a share of their mean",
                   many)}};
}

}  // namespace

OrError<result::Result> ask(const analysis::QuestionInput& asked, const Options& options) {
  const expression::LineView lines(asked.daybook, asked.grains);
  auto figure = expression::GroupedExpression::compile(*options.show, lines);
  if (!figure) return analysis::in_option("show", figure.error());
  if (figure->type() != expression::ValueType::number)
    return usage_error(fmt::format("--show: {} is no number.", in_quotes(options.show->text)));
  PEAR_ASSIGN(std::vector<expression::GroupKey> of, analysis::keys_of("of", {*options.of}, lines));
  Finding finding{options,
                  asked.daybook,
                  std::move(of.front()),
                  options.of->name,
                  options.show->name,
                  result::Unit::number,
                  {},
                  {}};
  finding.unit = figure->measure() == expression::Measure::money   ? result::Unit::money
                 : figure->measure() == expression::Measure::count ? result::Unit::count
                                                                   : result::Unit::number;
  PEAR_ASSIGN(finding.groups, rank("by", options.by, finding.of, *figure, lines));
  if (options.compare) {
    PEAR_ASSIGN(finding.compared, rank("compare", {*options.compare}, finding.of, *figure, lines));
  }

  result::Result result;
  result.question = "concentration";
  result.population = asked.population;
  result.definitions = definitions_of(finding);
  result.headline = headline_of(finding);
  result.tables = {ranking_table(finding), classes_table(finding),
                   summary_table(finding, finding.groups, "summary")};
  if (options.compare) result.tables.push_back(summary_table(finding, finding.compared, "compare"));
  result.figures = figures_of(finding);
  add_checks(finding, *figure, lines, result);
  add_notes(finding, result);
  return result;
}

namespace {

OrError<void> set_classes(Options& options, std::string_view text) {
  options.classes.clear();
  for (bool more = true; more;) {
    const std::size_t comma = text.find(',');
    const auto end = Decimal::parse(text.substr(0, comma));
    const std::int64_t before = options.classes.empty() ? 0 : options.classes.back();
    if (!end || end->units() <= before || end->units() >= 100 * Decimal::kScale)
      return usage_error(
          fmt::format("--classes takes rising per cents between 0 and 100 with commas between them, such as "
                      "80,95, not {}.",
                      in_quotes(text)));
    options.classes.push_back(end->units());
    more = comma != std::string_view::npos;
    if (more) text.remove_prefix(comma + 1);
  }
  return {};
}

analysis::OptionDeclarations<Options> concentration_options() {
  using Options = Options;
  return {
      analysis::tree_option<Options>({"of", "COLUMN", "customer_id", "whose shares are looked at"},
                                     &Options::of),
      analysis::tree_option<Options>({"show", "FIGURE", "sum(amount) as amount", "what is shared out"},
                                     &Options::show),
      {{"classes", "80,95", "80,95", "running shares, in per cent, at which classes A and B end"},
       set_classes},
      analysis::list_option<Options>({"by", "COLUMN,...", "", "a ranking of its own for each value"},
                                     &Options::by),
      analysis::tree_option<Options>(
          {"compare", "COLUMN", "", "the same for each value (year): whether it grows"}, &Options::compare)};
}

OrError<Options> read_concentration(const analysis::OptionValues& values) {
  PEAR_ASSIGN(Options options, analysis::read_options(concentration_options(), values));
  if (!options.of) {
    PEAR_ASSIGN(options.of, expression::parse_tree(daybook::role::kCustomerId));
  }
  if (!options.show) {
    PEAR_ASSIGN(options.show, expression::parse_tree("sum(amount)"));
    options.show->name = "amount";
  }
  return options;
}

}  // namespace

analysis::Question question() {
  return {
      "concentration",
      "how few customers or products bring how much",
      "Ranks customers, or whatever --of names, by what they bring, with running shares (the Pareto curve),\n"
      "classes A, B and C, and the Gini coefficient. What 20% bring, and how many bring 80%.",
      {"pear-thread concentration shop.daybook",
       "pear-thread concentration --of product_id --show \"sum(margin) as margin\"",
       "pear-thread concentration --by region", "pear-thread concentration --compare year"},
      analysis::infos(concentration_options()),
      [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
        PEAR_ASSIGN(const Options options, read_concentration(values));
        analysis::PreparedQuestion prepared;
        if (options.of->text == daybook::role::kProductId) prepared.where_there = {"product_name"};
        prepared.trees = {{"of", *options.of, {}}, {"show", *options.show, expression::ready_figures()}};
        for (const expression::Tree& tree : options.by) prepared.trees.push_back({"by", tree, {}});
        if (options.compare) prepared.trees.push_back({"compare", *options.compare, {}});
        prepared.ask = [options](const analysis::QuestionInput& asked) { return ask(asked, options); };
        return prepared;
      }};
}

}  // namespace pear::concentration
