#include "questions/offers/question.hpp"

#include <memory>
#include <utility>

#include "questions/offers/backtest.hpp"
#include "questions/offers/bundles.hpp"
#include "questions/offers/campaign/campaign_list.hpp"
#include "questions/offers/campaign/measurement.hpp"
#include "questions/offers/counts.hpp"
#include "questions/offers/customer_offers.hpp"
#include "questions/offers/figure.hpp"
#include "questions/offers/finding.hpp"
#include "questions/offers/tables.hpp"

namespace pear::offers {
namespace {

OrError<result::Result> ask_plan(analysis::QuestionInput input, const Options& options) {
  PEAR_ASSIGN(const std::shared_ptr<const Counts> counts, count_offers(std::move(input), options));
  result::Result result;
  if (options.customer) {
    PEAR_ASSIGN(result, customer_result(counts));
  } else {
    result.headline = headline_of(*counts);
    std::int64_t value = 0;
    for (const ProductSum& sum : sums_by_product(*counts)) value += sum.value;
    if (value > 0) result.stakes = {{0, value}};
    result.tables = {plan_table(counts), products_table(*counts),
                     bundles_table(*counts, find_bundles(*counts)), evidence_table(*counts)};
    result.tables.back().most_shown = 0;
    if (options.list) result.tables.insert(result.tables.begin() + 1, campaign_list(*counts, *options.list));
    result.figures = figures_of(*counts);
  }
  result.definitions = definitions_of(*counts);
  result.checks = checks_of(*counts);
  result.notes = notes_of(*counts);
  note_choice(counts->input, result);
  return result;
}

analysis::PreparedQuestion prepared(const Options& options) {
  analysis::PreparedQuestion prepared;
  prepared.columns = {std::string(daybook::role::kCustomerId), std::string(daybook::role::kProductId),
                      std::string(daybook::role::kAmount)};
  prepared.where_there = {"margin", "category", "product_name", "customer_name"};
  if (options.customer) {
    prepared.columns.emplace_back(daybook::role::kOrderId);
    prepared.where_there.emplace_back(daybook::role::kQuantity);
    prepared.where_there.emplace_back(daybook::role::kUnitPrice);
  }
  if (!options.per) prepared.level = daybook::Level::customer;
  if (options.per) prepared.trees.push_back({"per", *options.per, {}});
  prepared.customers = options.customers;
  prepared.learns_from_all = true;
  prepared.ask = [options](analysis::QuestionInput input) { return ask(std::move(input), options); };
  return prepared;
}

}  // namespace

OrError<result::Result> ask(analysis::QuestionInput input, const Options& options) {
  if (input.population.orders == 0)
    return data_error(
        "there are only returns and no purchases, so nothing is known about what customers buy.");
  auto result = options.measure ? ask_measurement(input, options)
                : options.test  ? ask_backtest(input, options)
                                : ask_plan(std::move(input), options);
  if (result) result->question = "offers";
  return result;
}

analysis::Question question() {
  return {
      "offers",
      "the cross-selling plan: whom to offer what, when and why",
      "For each active customer, the products that are worth offering, new ones and those bought before, "
      "with\nthe probability that they buy, the expected value, the best days and the reason. "
      "--customers chooses\nwhom to plan for; the model learns from all selected lines. --test backtests the "
      "plan on held-out\nsales; --measure compares a campaign with its control group.",
      {"pear-thread offers shop.daybook", "pear-thread offers --test 90",
       "pear-thread offers --customers \"region = 'North'\" --budget 500 --exclude P44",
       "pear-thread offers --control 10% --list customers --with email",
       "pear-thread offers --measure campaign/offers.csv", "pear-thread offers --customer C101",
       "pear-thread offers part.daybook --learn sample.daybook",
       "pear-thread offers --stock stock.csv --rank-by probability"},
      analysis::infos(option_declarations()),
      [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
        PEAR_ASSIGN(const Options options, read(values));
        return prepared(options);
      }};
}

}  // namespace pear::offers
