#include "questions/prices/question.hpp"

#include <utility>

#include "questions/prices/counts.hpp"
#include "questions/prices/figure.hpp"
#include "questions/prices/finding.hpp"
#include "questions/prices/tables.hpp"

namespace pear::prices {

OrError<result::Result> ask(analysis::QuestionInput input, const Options& options) {
  PEAR_ASSIGN(const Counts counts, count(std::move(input), options));
  return result_of(counts);
}

result::Result result_of(const Counts& counts) {
  result::Result result;
  result.question = "prices";
  result.population = counts.input.population;
  result.definitions = definitions_of(counts);
  result.headline = headline_of(counts);
  result.stakes = stakes_of(counts);
  if (counts.lists_pairs()) result.tables.push_back(prices_table(counts));
  if (!counts.product) result.tables.push_back(customers_table(counts));
  result.tables.push_back(products_table(counts));
  if (counts.product) result.tables.push_back(months_table(counts));
  result.figures = figures_of(counts);
  add_checks(counts, result);
  add_notes(counts, result);
  return result;
}

analysis::Question question() {
  return {"prices",
          "who pays less than others, by how much, and whether volume explains it",
          "Compares what each customer paid for each product with what the others paid, weighted by "
          "quantity. Shows\nwhat the difference is worth, and whether others with the same volume pay as "
          "little. Returns do not count.",
          {"pear-thread prices shop.daybook", "pear-thread prices --below 95%",
           "pear-thread prices --against list", "pear-thread prices --product P11",
           "pear-thread prices --where \"buyer = 'trade'\" --above 100%"},
          analysis::infos(option_declarations()),
          [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
            PEAR_ASSIGN(const Options options, analysis::read_options(option_declarations(), values));
            analysis::PreparedQuestion prepared;
            for (const std::string_view name :
                 {daybook::role::kCustomerId, daybook::role::kProductId, daybook::role::kOrderDate,
                  daybook::role::kIsReturn, daybook::role::kQuantity, daybook::role::kAmount})
              prepared.columns.emplace_back(name);
            prepared.where_there = {"customer_name", "product_name", std::string(daybook::role::kListPrice)};
            prepared.ask = [options](analysis::QuestionInput input) {
              return ask(std::move(input), options);
            };
            return prepared;
          }};
}

}  // namespace pear::prices
