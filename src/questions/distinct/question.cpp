#include "questions/distinct/question.hpp"

#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "questions/distinct/figure.hpp"
#include "questions/distinct/finding.hpp"
#include "questions/distinct/tables.hpp"

namespace pear::distinct {

OrError<result::Result> result_of(const Counts& counts, const analysis::QuestionInput& input) {
  result::Result result;
  result.question = "distinct";
  result.population = input.population;
  result.definitions = {
      {"distinct", "distinct values in lines that are not returns; empty values are not counted"},
      {"orders", "distinct pairs of customer and order id among these lines"}};
  result.headline = headline_of(counts);
  result.tables.push_back(main_table(counts));
  if (!counts.options.per.empty()) result.tables.push_back(distribution_table(counts));
  add_checks(counts, result);
  if (counts.options.list) {
    PEAR_ASSIGN(result::Table list, members_table(counts));
    result.tables.push_back(std::move(list));
  }
  result.figures = figures_of(counts);
  add_notes(counts, result);
  return result;
}

OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options) {
  PEAR_ASSIGN(const Counts counts, count(input, options));
  return result_of(counts, input);
}

analysis::Question question() {
  return {
      "distinct",
      "how many distinct products, customers and so on, in total or for each value",
      "Counts each distinct value once, and shows the number of orders and lines next to it, so that\n203 "
      "order lines are not mistaken for 203 customers. --list writes the values.",
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
            return usage_error(
                fmt::format("--count {} is in --per as well, so each count would be 1.", in_quotes(counted)));
        analysis::PreparedQuestion prepared;
        prepared.columns = {std::string(daybook::role::kOrderDate), std::string(daybook::role::kIsReturn)};
        if (options.list) prepared.columns.emplace_back(daybook::role::kAmount);
        if (!options.count) prepared.columns.emplace_back(daybook::role::kProductId);
        if (options.count) prepared.trees.push_back({"count", *options.count, {}});
        for (const expression::Tree& tree : options.per) prepared.trees.push_back({"per", tree, {}});
        for (const analysis::GivenExpression& given : prepared.trees) {  // names are shown next to ids
          if (given.tree.text == daybook::role::kProductId) prepared.where_there.emplace_back("product_name");
          if (given.tree.text == daybook::role::kCustomerId)
            prepared.where_there.emplace_back("customer_name");
        }
        prepared.ask = [options](const analysis::QuestionInput& input) { return ask(input, options); };
        return prepared;
      }};
}

}  // namespace pear::distinct
