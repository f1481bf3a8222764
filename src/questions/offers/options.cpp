#include "questions/offers/options.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/expression_option.hpp"
#include "analysis/selection.hpp"
#include "analysis/share.hpp"
#include "base/text.hpp"

namespace pear::offers {
namespace {

analysis::OptionDeclaration<Options> probability_option(analysis::OptionInfo info,
                                                        std::optional<double> Options::*member) {
  auto set = [name = info.name, member](Options& options, std::string_view text) -> OrError<void> {
    const auto share = analysis::parse_share(text);
    if (!share || !(*share >= 0 && *share <= 1))
      return usage_error(
          fmt::format("--{} takes a probability such as 0.05 or 5%, not {}.", name, in_quotes(text)));
    options.*member = share;
    return {};
  };
  return {std::move(info), std::move(set)};
}

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
  if (options.test && (options.stock || options.budget || options.customer || options.min_probability))
    return usage_error(
        "--test scores the first 1, 3 and 5 offers to every active customer; leave out --stock, --budget, "
        "--customer and --min-probability.");
  if (options.customer && (options.stock || options.budget))
    return usage_error(
        "--customer shows the offers to one customer without regard to the others; leave out --stock and "
        "--budget.");
  return {};
}

}  // namespace

analysis::OptionDeclarations<Options> option_declarations() {
  analysis::OptionInfo stock{"stock", "FILE", "",
                             "a CSV file of product_id and pieces; no product is offered more often"};
  stock.names_file = true;
  return {
      analysis::whole_option<Options>({"horizon", "DAYS", "90", "how far ahead the plan looks"},
                                      &Options::horizon, 1, 730),
      analysis::day_option<Options>(
          {"as-of", "DATE", "the last day of the data", "the day of the plan; nothing later is used"},
          &Options::as_of),
      analysis::whole_option<Options>(
          {"active", "DAYS", "365", "plan for customers whose last order is more recent than this"},
          &Options::active, 1, 3650),
      analysis::whole_option<Options>({"per-customer", "N", "3", "most offers to a customer"},
                                      &Options::per_customer, 1, 50),
      probability_option({"min-probability", "SHARE", "1%", "least probability of an offer"},
                         &Options::min_probability),
      analysis::text_option<Options>(
          {"only", "PRODUCTS", "", "offer only these: ids or names, separated by commas"}, &Options::only),
      analysis::text_option<Options>({"exclude", "PRODUCTS", "", "do not offer these"}, &Options::exclude),
      rank_option(),
      analysis::tree_option<Options>(
          {"group", "COLUMN", "by the data", "customers who buy alike: any column of customers"},
          &Options::group),
      analysis::word_option<Options>(
          {"evidence", "all|selection", "all", "learn from all customers, or from those of --where"},
          &Options::evidence, {"all", "selection"}),
      analysis::text_option<Options>(std::move(stock), &Options::stock),
      analysis::whole_option<Options>({"budget", "N", "", "contact only the best N customers"},
                                      &Options::budget, 1, 1'000'000'000),
      analysis::text_option<Options>(
          {"customer", "ID", "", "one customer's offers, with history and all evidence"}, &Options::customer),
      analysis::whole_option<Options>(
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
