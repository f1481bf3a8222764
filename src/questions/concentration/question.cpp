#include "questions/concentration/question.hpp"

#include <utility>

#include "questions/concentration/figure.hpp"
#include "questions/concentration/finding.hpp"
#include "questions/concentration/tables.hpp"

namespace pear::concentration {

OrError<result::Result> result_of(const Counts& counts, const analysis::QuestionInput& input) {
  result::Result result;
  result.question = "concentration";
  result.population = input.population;
  result.definitions = definitions_of(counts);
  result.headline = headline_of(counts);
  result.stakes = stakes_of(counts);
  result.tables = {ranking_table(counts), classes_table(counts),
                   summary_table(counts, counts.groups, "summary")};
  if (counts.options.compare) result.tables.push_back(summary_table(counts, counts.compared, "compare"));
  result.figures = figures_of(counts);
  add_checks(counts, result);
  add_notes(counts, result);
  return result;
}

OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options) {
  PEAR_ASSIGN(const Counts counts, count(input, options));
  return result_of(counts, input);
}

analysis::Question question() {
  return {
      "concentration",
      "how much of sales the largest customers or products account for",
      "Ranks customers, or the values of --per, by a figure, with cumulative shares (the Pareto curve), "
      "classes\nA, B and C, and the Gini coefficient: the share of the largest 20%, and how many account "
      "for 80%.",
      {"pear-thread concentration shop.daybook",
       "pear-thread concentration --per product_id --count \"sum(margin) as margin\"",
       "pear-thread concentration --by region", "pear-thread concentration --compare year"},
      analysis::infos(option_declarations()),
      [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
        PEAR_ASSIGN(const Options options, read(values));
        analysis::PreparedQuestion prepared;
        if (options.per->text == daybook::role::kProductId) prepared.where_there = {"product_name"};
        if (options.per->text == daybook::role::kCustomerId) prepared.where_there = {"customer_name"};
        prepared.trees = {{"per", *options.per, {}}, {"count", *options.count, expression::ready_figures()}};
        for (const expression::Tree& tree : options.by) prepared.trees.push_back({"by", tree, {}});
        if (options.compare) prepared.trees.push_back({"compare", *options.compare, {}});
        prepared.ask = [options](const analysis::QuestionInput& input) { return ask(input, options); };
        return prepared;
      }};
}

}  // namespace pear::concentration
