#include "questions/first/question.hpp"

#include <memory>
#include <utility>

#include "questions/first/counts.hpp"
#include "questions/first/figure.hpp"
#include "questions/first/finding.hpp"
#include "questions/first/tables.hpp"

namespace pear::first {

result::Result result_of(const std::shared_ptr<const Counts>& kept) {
  const Counts& counts = *kept;
  const Options& options = counts.options;
  result::Result result;
  result.question = "first";
  result.population = counts.input.population;
  result.definitions = definitions_of(options);
  result.tables.push_back(customers_table(counts));
  add_checks(counts, result);
  add_notes(counts, result);
  result.headline = headline_of(counts);
  if (counts.entries.customers == 0) return result;
  result.tables.push_back(entry_table(counts));
  result.tables.push_back(months_table(counts));
  if (options.per) {
    result.tables.push_back(first_buys_table(kept));
    result.tables.back().most_shown = 10;
  }
  result.figures = figures_of(counts);
  return result;
}

OrError<result::Result> ask(analysis::QuestionInput input, const Options& options) {
  PEAR_ASSIGN(const std::shared_ptr<const Counts> counts, count(std::move(input), options));
  return result_of(counts);
}

analysis::Question question() {
  return {
      "first",
      "first purchases, and whether customers ordered again",
      "For each customer: the first order with its products and amount, the second order and the "
      "days\nbetween them, and the number and amount of all orders. New customers by month. For each "
      "product of\nfirst orders: how many customers began with it, their repeat rate, and their later "
      "orders and amounts.",
      {"pear-thread first shop.daybook", "pear-thread first shop.daybook --with region",
       "pear-thread first --per product --by region", "pear-thread first --run-in 365",
       "pear-thread first --per category --follow 90 --where \"channel = 'shop'\""},
      analysis::infos(option_declarations()),
      [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
        PEAR_ASSIGN(const Options options, analysis::read_options(option_declarations(), values));
        analysis::PreparedQuestion prepared;
        prepared.columns = {std::string(daybook::role::kCustomerId), std::string(daybook::role::kOrderId),
                            std::string(daybook::role::kProductId),  std::string(daybook::role::kOrderDate),
                            std::string(daybook::role::kIsReturn),   std::string(daybook::role::kAmount)};
        prepared.where_there = {"product_name", "customer_name"};
        if (options.per) {
          prepared.where_there.emplace_back(daybook::role::kQuantity);
          prepared.where_there.emplace_back(daybook::role::kUnitPrice);
          prepared.trees.push_back({"per", *options.per, {}});
        }
        for (const expression::Tree& tree : options.by) prepared.trees.push_back({"by", tree, {}});
        prepared.ask = [options](analysis::QuestionInput input) { return ask(std::move(input), options); };
        return prepared;
      }};
}

}  // namespace pear::first
