#include "questions/crosstab/question.hpp"

#include <iterator>
#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "analysis/tables/member_column.hpp"
#include "analysis/tables/member_labels.hpp"
#include "base/text.hpp"
#include "expression/expression.hpp"
#include "questions/crosstab/details.hpp"
#include "questions/crosstab/figure.hpp"
#include "questions/crosstab/finding.hpp"
#include "questions/crosstab/headline.hpp"
#include "questions/crosstab/tables.hpp"

namespace pear::crosstab {

WithoutLabels without_labels(const Options& options, const expression::LineView& lines) {
  WithoutLabels result{options, {}};
  result.options.down.clear();
  result::IdOf id = result::IdOf::none;
  for (const expression::Tree& tree : options.down) {
    const expression::Grain of_id =
        id == result::IdOf::customer ? expression::grain::kCustomer : expression::grain::kProduct;
    const auto compiled = expression::Expression::compile(tree.root, tree.text, lines.schema());
    if (id != result::IdOf::none && compiled && compiled->grain() == of_id) {
      result.labels.push_back(tree);
      for (Comparison& each : result.options.against)
        if (each.depth && *each.depth > result.options.down.size()) --*each.depth;
      continue;
    }
    id = analysis::id_of(tree.text);
    result.options.down.push_back(tree);
  }
  return result;
}

OrError<result::Result> result_of(const Counts& counts, const analysis::QuestionInput& input,
                                  const WithoutLabels& chosen, const expression::LineView& members) {
  PEAR_ASSIGN(const analysis::MemberLabels labels,
              analysis::MemberLabels::prepare("down", chosen.labels, members));
  const Crosstab& crosstab = counts.crosstab;
  result::Result result;
  result.question = "crosstab";
  result.population = input.population;
  result.definitions = definitions_of(chosen.options);
  result.headline = headline_of(crosstab, input.currency);
  result.stakes = stakes_of(crosstab);
  result.tables = {wide_table(crosstab, input.currency)};
  if (!repeats_main_table(crosstab)) result.tables.push_back(long_table(crosstab));
  for (result::Table& table : result.tables) labels.add_to(table);
  result.figures = figures_of(crosstab, input.currency);
  for (result::Figure& figure : result.figures) {
    figure.title = result.headline.front();
    figure.subtitle += fmt::format("; {}", counted(result.population.customers, "customer"));
  }
  add_checks(counts, result);
  add_notes(counts, result);
  return result;
}

OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& given) {
  const expression::LineView lines(input.daybook, input.grains);
  const WithoutLabels chosen = without_labels(given, lines);
  PEAR_ASSIGN(AxisKeys axes, axis_keys_of(chosen.options, lines));
  std::vector<expression::GroupKey> keys = std::move(axes.down);
  std::move(axes.across.begin(), axes.across.end(), std::back_inserter(keys));
  const expression::Grouping grouping = expression::group_lines(input.daybook, keys);
  for (expression::GroupKey& key : keys) key.codes = {};  // axes only need the labels
  const auto across = keys.begin() + static_cast<std::ptrdiff_t>(chosen.options.down.size());
  axes.across.assign(std::make_move_iterator(across), std::make_move_iterator(keys.end()));
  axes.down.assign(std::make_move_iterator(keys.begin()), std::make_move_iterator(across));
  PEAR_ASSIGN(const Counts counts,
              count_cells(expression::DaybookCells(grouping), std::move(axes), input, chosen.options, lines));
  PEAR_ASSIGN(result::Result result, result_of(counts, input, chosen, lines));
  if (!given.details.empty()) PEAR_TRY(add_details(counts.crosstab, grouping, lines, input.grains, result));
  return result;
}

namespace {

std::vector<analysis::GivenExpression> trees_of(const Options& options) {
  std::vector<analysis::GivenExpression> trees;
  for (const expression::Tree& tree : options.down) trees.push_back({"down", tree, {}});
  for (const expression::Tree& tree : options.across) trees.push_back({"across", tree, {}});
  for (const expression::Tree& tree : options.figures)
    trees.push_back({"count", tree, expression::ready_figures()});
  return trees;
}

/// The columns of names that are shown next to ids.
std::vector<std::string> names_next_to(const std::vector<analysis::GivenExpression>& trees) {
  std::vector<std::string> names;
  for (const analysis::GivenExpression& given : trees) {
    const result::IdOf id = analysis::id_of(given.tree.text);
    if (id == result::IdOf::customer) names.emplace_back("customer_name");
    if (id == result::IdOf::product) names.emplace_back("product_name");
  }
  return names;
}

/// The names that --having and --sort may use in addition to columns.
std::vector<std::string> names_of(const Options& options) {
  std::vector<std::string> names = expression::ready_figures();
  for (const auto* list : {&options.figures, &options.down}) {
    for (const expression::Tree& tree : *list) names.push_back(tree.name);
  }
  return names;
}

}  // namespace

analysis::Question question() {
  return {
      "crosstab",
      "cross-tabulation: any figures, by any columns down and across",
      "Assigns lines to cells by the columns of --down and --across, and shows figures of each cell: "
      "sums,\ncounts, averages, medians, or anything computed from these. orders, customers, products and "
      "lines\nare ready figures. Subtotals and totals are computed from their own lines. A figure of a "
      "customer's\ncolumn counts each customer once in a cell, however many lines there are.",
      {"pear-thread crosstab shop.daybook --down region --across year",
       "pear-thread crosstab --down month --count \"sum(amount) as sales, orders, sum(amount) / orders as "
       "value\"",
       "pear-thread crosstab --down category,product_id --count \"sum(margin) as margin\" --keep 5 --share "
       "parent",
       "pear-thread crosstab --down product_id,customer_id --count \"sum(amount) / sum(quantity) as price\" "
       "--against parent",
       "pear-thread crosstab --down region --across year --details region=North,year=2024"},
      analysis::infos(option_declarations()),
      [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
        PEAR_ASSIGN(const Options options, read(values));
        analysis::PreparedQuestion prepared;
        prepared.trees = trees_of(options);
        prepared.where_there = names_next_to(prepared.trees);
        if (options.having) prepared.trees.push_back({"having", *options.having, names_of(options)});
        for (const expression::SortKey& key : options.sort)
          prepared.trees.push_back({"sort", key.tree, names_of(options)});
        if (!options.details.empty())
          prepared.columns = {std::string(daybook::role::kOrderId),   std::string(daybook::role::kCustomerId),
                              std::string(daybook::role::kProductId), std::string(daybook::role::kQuantity),
                              std::string(daybook::role::kUnitPrice), std::string(daybook::role::kAmount)};
        prepared.ask = [options](const analysis::QuestionInput& input) { return ask(input, options); };
        return prepared;
      },
      "",
      60,
      true};
}

}  // namespace pear::crosstab
