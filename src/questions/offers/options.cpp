#include "questions/offers/options.hpp"

#include <algorithm>
#include <array>
#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "analysis/options/length_of_time.hpp"
#include "analysis/options/share.hpp"
#include "base/text.hpp"

namespace pear::offers {
namespace {

analysis::OptionDeclaration<Options> rank_option() {
  return {
      {"rank-by", "margin|probability|amount", "margin, or amount without costs", "how offers are ranked"},
      [](Options& options, std::string_view text) -> OrError<void> {
        PEAR_ASSIGN(const std::size_t word,
                    analysis::parse_word("rank-by", text, {"margin", "probability", "amount"}));
        options.rank_by = static_cast<recommender::RankBy>(word);
        return {};
      }};
}

/// "plan", and the words of all baselines in their order.
std::vector<std::string> methods() {
  std::vector<std::string> words = {"plan"};
  for (std::size_t method = 0; method < recommender::kBaselineMethods; ++method)
    words.emplace_back(recommender::word_of(static_cast<recommender::BaselineMethod>(method)));
  return words;
}

analysis::OptionDeclaration<Options> method_option() {
  return {{"method", "METHOD", "plan", "how offers are chosen: " + join(methods(), ", ")},
          [](Options& options, std::string_view text) -> OrError<void> {
            PEAR_ASSIGN(const std::size_t word, analysis::parse_word("method", text, methods()));
            options.method.reset();
            if (word > 0) options.method = static_cast<recommender::BaselineMethod>(word - 1);
            return {};
          }};
}

analysis::OptionDeclaration<Options> list_option() {
  return {
      {"list", "customers|products", "",
       "also a campaign list: a row for each customer with all offers, or the customers of each product"},
      [](Options& options, std::string_view text) -> OrError<void> {
        PEAR_ASSIGN(const std::size_t word, analysis::parse_word("list", text, {"customers", "products"}));
        options.list = static_cast<CampaignList>(word);
        return {};
      }};
}

/// --measure only compares what customers bought.
OrError<void> check_measure(const analysis::OptionValues& values) {
  const std::array<std::string_view, 4> allowed = {"measure", "as-of", "horizon", "customers"};
  for (const analysis::OptionInfo& option : analysis::infos(option_declarations()))
    for (const auto& [name, value] : values)
      if (name == option.name && std::find(allowed.begin(), allowed.end(), name) == allowed.end())
        return usage_error(fmt::format(
            "--measure compares the customers of a campaign that is over; leave out --{}.", name));
  return {};
}

/// Options that contradict each other.
OrError<void> check(const Options& options) {
  if (options.folds && !options.test) return usage_error("--folds needs --test DAYS.");
  if (options.test && (options.stock || options.budget || options.control || options.customer ||
                       options.min_probability || options.method || options.list))
    return usage_error(
        "--test scores the first 1, 3 and 5 offers of every method to every active customer; leave out "
        "--stock, --budget, --control, --customer, --min-probability, --method and --list.");
  if (options.customer && (options.stock || options.budget || options.control || options.list))
    return usage_error(
        "--customer shows the offers to one customer without regard to the others; leave out --stock, "
        "--budget, --control and --list.");
  return {};
}

}  // namespace

analysis::OptionDeclarations<Options> option_declarations() {
  analysis::OptionInfo stock{"stock", "FILE", "",
                             "a CSV file of product_id and pieces; no product is offered more often"};
  stock.names_file = true;
  analysis::OptionInfo campaign{
      "measure", "FILE", "",
      "what a campaign caused: offers.csv of a plan with --control, compared with later sales"};
  campaign.names_file = true;
  analysis::OptionInfo learn{"learn", "DAYBOOK", "",
                             "learn from the customers of another daybook, too, such as a sample"};
  learn.names_daybook = true;
  return {
      analysis::days_option<Options>({"horizon", "DAYS", "90", "how far ahead the plan looks"},
                                     &Options::horizon, 1, 730),
      analysis::days_of_calendar_option<Options>(
          {"as-of", "DATE", "the last day of the data", "the day of the plan; nothing later is used"},
          &Options::as_of),
      analysis::days_option<Options>(
          {"active", "DAYS", "365", "plan for customers whose last order is more recent than this"},
          &Options::active, 1, 3650),
      analysis::whole_option<Options>({"per-customer", "N", "3", "most offers to a customer"},
                                      &Options::per_customer, 1, 50),
      analysis::share_option<Options>({"min-probability", "SHARE", "1%", "least probability of an offer"},
                                      &Options::min_probability),
      analysis::text_option<Options>(
          {"only", "PRODUCTS", "", "offer only these: ids or names, separated by commas"}, &Options::only),
      analysis::text_option<Options>({"exclude", "PRODUCTS", "", "do not offer these"}, &Options::exclude),
      rank_option(),
      method_option(),
      analysis::switch_option<Options>(
          {"uplift", "", "",
           "count only purchases that an offer can cause: new products, and those that a step triggers"},
          &Options::uplift),
      analysis::tree_option<Options>(
          {"per", "COLUMN", "by the data", "customers who buy alike: any column of customers"},
          &Options::per),
      analysis::tree_option<Options>(
          {"customers", "CONDITION", "", "plan for customers with a line that meets it; learn from all"},
          &Options::customers),
      analysis::text_option<Options>(std::move(learn), &Options::learn),
      analysis::text_option<Options>(std::move(stock), &Options::stock),
      analysis::whole_option<Options>({"budget", "N", "", "contact only the best N customers"},
                                      &Options::budget, 1, 1'000'000'000),
      analysis::share_option<Options>(
          {"control", "SHARE", "",
           "a random part of the customers, such as 10%, is not contacted, to measure what offers cause"},
          &Options::control),
      list_option(),
      analysis::text_option<Options>(
          {"customer", "ID", "", "one customer's offers, with history and all evidence"}, &Options::customer),
      analysis::days_option<Options>(
          {"test", "DAYS", "", "hold out this many days, plan from the rest, and score"}, &Options::test, 1,
          730),
      analysis::whole_option<Options>(
          {"folds", "N", "3", "the number of backtests, each this many days earlier"}, &Options::folds, 1,
          24),
      analysis::text_option<Options>(std::move(campaign), &Options::measure)};
}

OrError<Options> read(const analysis::OptionValues& values) {
  PEAR_ASSIGN(Options options, analysis::read_options(option_declarations(), values));
  if (options.measure) PEAR_TRY(check_measure(values));
  PEAR_TRY(check(options));
  if (options.test && options.horizon && options.horizon != options.test)
    return usage_error(
        fmt::format("--test {} holds out as many days as the plan covers; leave out --horizon {}.",
                    *options.test, *options.horizon));
  if (options.test) options.horizon = *options.test;
  return options;
}

}  // namespace pear::offers
