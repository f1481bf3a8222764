#include "questions/baskets/question.hpp"

#include <utility>

#include "questions/baskets/figure.hpp"
#include "questions/baskets/finding.hpp"
#include "questions/baskets/tables.hpp"

namespace pear::baskets {

result::Result result_of(const Counts& counts) {
  result::Result result;
  result.question = "baskets";
  result.population = counts.input.population;
  result.definitions = definitions_of(counts);
  result.headline = headline_of(counts);
  result.stakes = stakes_of(counts);
  result.tables = {compositions_table(counts), basket_sizes_table(counts), pull_table(counts)};
  result.figures = figures_of(counts);
  add_checks(counts, result);
  add_notes(counts, result);
  return result;
}

OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options) {
  PEAR_ASSIGN(const Counts counts, count(input, options));
  return result_of(counts);
}

analysis::Question question() {
  return {"baskets",
          "basket compositions, their sales and margin, and which products pull profitable baskets",
          "Counts baskets by the set of products in them, with sales, cost and margin. For each product, "
          "compares\nwhat it earns with what the other products in its baskets earn, more or less than "
          "similar baskets do.",
          {"pear-thread baskets shop.daybook", "pear-thread baskets --discount 10%",
           "pear-thread baskets --count category", "pear-thread baskets --basket \"14 days\""},
          analysis::infos(option_declarations()),
          [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
            PEAR_ASSIGN(const Options options, analysis::read_options(option_declarations(), values));
            analysis::PreparedQuestion prepared = mining::prepared_for_baskets(options.items);
            prepared.ask = [options](const analysis::QuestionInput& input) { return ask(input, options); };
            return prepared;
          }};
}

}  // namespace pear::baskets
