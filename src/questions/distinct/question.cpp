#include "questions/distinct/question.hpp"

#include <utility>

#include "questions/distinct/counts.hpp"
#include "questions/distinct/figure.hpp"
#include "questions/distinct/finding.hpp"
#include "questions/distinct/tables.hpp"

namespace pear::distinct {

OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options) {
  PEAR_ASSIGN(const Counts counts, count(input, options));
  result::Result result;
  result.question = "distinct";
  result.population = input.population;
  result.definitions = {{"distinct", "different values in lines that are not returns; empty values are none"},
                        {"orders", "different pairs of customer and order id among these lines"}};
  result.headline = headline_of(counts);
  result.tables.push_back(main_table(counts));
  if (!options.per.empty()) result.tables.push_back(distribution_table(counts));
  add_checks(counts, result);
  if (options.list) {
    PEAR_ASSIGN(result::Table list, members_table(counts));
    result.tables.push_back(std::move(list));
  }
  result.figures = figures_of(counts);
  add_notes(counts, result);
  return result;
}

analysis::Question question() {
  return {
      "distinct",
      "how many different products, customers, ... there are, of all or of each",
      "Counts each different value once, and shows beside it the orders and lines that hold any, so that\n"
      "203 order lines are not taken for 203 customers. --list says who or which they are.",
      {"pear-thread distinct shop.daybook --count product_id --per customer_id",
       "pear-thread distinct --count customer_id --per category,year",
       "pear-thread distinct --count customer_id --where \"product_id = 'P43'\" --list"},
      analysis::infos(option_declarations()),
      [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
        PEAR_ASSIGN(const Options options, analysis::read_options(option_declarations(), values));
        const std::string counted =
            options.count ? options.count->name : std::string(daybook::role::kProductId);
        for (const expression::Tree& tree : options.per)
          if (tree.name == counted)
            return usage_error(fmt::format("--count {} stands in --per as well: there is one of it in each.",
                                           in_quotes(counted)));
        analysis::PreparedQuestion prepared;
        prepared.columns = {std::string(daybook::role::kOrderDate), std::string(daybook::role::kIsReturn)};
        if (options.list) prepared.columns.emplace_back(daybook::role::kAmount);
        if (!options.count) prepared.columns.emplace_back(daybook::role::kProductId);
        if (options.count) prepared.trees.push_back({"count", *options.count, {}});
        for (const expression::Tree& tree : options.per) prepared.trees.push_back({"per", tree, {}});
        for (const analysis::GivenExpression& given : prepared.trees) {  // names stand beside ids
          if (given.tree.text == daybook::role::kProductId) prepared.where_there.emplace_back("product_name");
          if (options.list && given.tree.text == daybook::role::kCustomerId)
            prepared.where_there.emplace_back("customer_name");
        }
        prepared.ask = [options](const analysis::QuestionInput& input) { return ask(input, options); };
        return prepared;
      }};
}

}  // namespace pear::distinct
