#include "questions/crosstab/question.hpp"

#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "questions/crosstab/counts.hpp"
#include "questions/crosstab/details.hpp"
#include "questions/crosstab/figure.hpp"
#include "questions/crosstab/finding.hpp"
#include "questions/crosstab/headline.hpp"
#include "questions/crosstab/tables.hpp"

namespace pear::crosstab {

OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options) {
  PEAR_ASSIGN(const Counts counts, count(input, options));
  const Crosstab& crosstab = counts.crosstab;
  result::Result result;
  result.question = "crosstab";
  result.population = input.population;
  result.definitions = definitions_of(options);
  result.headline = headline_of(crosstab, input.currency);
  result.tables = {wide_table(crosstab, input.currency), long_table(crosstab)};
  result.figures = figures_of(crosstab, input.currency);
  for (result::Figure& figure : result.figures) {
    figure.title = result.headline.front();
    figure.subtitle += fmt::format("; {}", counted(result.population.customers, "customer"));
  }
  add_checks(counts, result);
  add_notes(counts, result);
  const expression::LineView lines(input.daybook, input.grains);
  if (!options.details.empty()) PEAR_TRY(add_details(crosstab, counts.grouping, lines, input.grains, result));
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
      60};
}

}  // namespace pear::crosstab
