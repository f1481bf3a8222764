#include "questions/offers/options.hpp"

#include <algorithm>
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

/// Options that contradict each other.
OrError<void> check(const Options& options) {
  if (options.folds && !options.test) return usage_error("--folds needs --test DAYS.");
  if (options.test &&
      (options.stock || options.budget || options.control || options.customer || options.min_probability))
    return usage_error(
        "--test scores the first 1, 3 and 5 offers to every active customer; leave out --stock, --budget, "
        "--control, --customer and --min-probability.");
  if (options.customer && (options.stock || options.budget || options.control))
    return usage_error(
        "--customer shows the offers to one customer without regard to the others; leave out --stock, "
        "--budget and --control.");
  return {};
}

}  // namespace

analysis::OptionDeclarations<Options> option_declarations() {
  analysis::OptionInfo stock{"stock", "FILE", "",
                             "a CSV file of product_id and pieces; no product is offered more often"};
  stock.names_file = true;
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
      analysis::text_option<Options>(std::move(stock), &Options::stock),
      analysis::whole_option<Options>({"budget", "N", "", "contact only the best N customers"},
                                      &Options::budget, 1, 1'000'000'000),
      analysis::share_option<Options>(
          {"control", "SHARE", "",
           "a random part of the customers, such as 10%, is not contacted, to measure what offers cause"},
          &Options::control),
      analysis::text_option<Options>(
          {"customer", "ID", "", "one customer's offers, with history and all evidence"}, &Options::customer),
      analysis::days_option<Options>(
          {"test", "DAYS", "", "hold out this many days, plan from the rest, and score"}, &Options::test, 1,
          730),
      analysis::whole_option<Options>(
          {"folds", "N", "3", "the number of backtests, each this many days earlier"}, &Options::folds, 1,
          24)};
}

OrError<Options> read(const analysis::OptionValues& values) {
  PEAR_ASSIGN(Options options, analysis::read_options(option_declarations(), values));
  PEAR_TRY(check(options));
  const bool has_horizon =
      std::any_of(values.begin(), values.end(), [](const auto& value) { return value.first == "horizon"; });
  if (options.test && has_horizon && options.horizon != *options.test)
    return usage_error(
        fmt::format("--test {} holds out as many days as the plan covers; leave out --horizon {}.",
                    *options.test, options.horizon));
  if (options.test) options.horizon = *options.test;
  return options;
}

}  // namespace pear::offers
