#include "questions/together/options.hpp"

#include <utility>

#include <fmt/format.h>

#include "analysis/expression_option.hpp"
#include "analysis/share.hpp"
#include "base/text.hpp"
#include "expression/syntax/parse.hpp"
#include "mining/mining_options.hpp"

namespace pear::together {
namespace {

analysis::OptionDeclaration<Options> ratio_option(analysis::OptionInfo info, double Options::*member,
                                                  double most) {
  auto set = [name = info.name, member, most](Options& options, std::string_view text) -> OrError<void> {
    const auto ratio = analysis::parse_share(text);
    if (!ratio || !(*ratio >= 0 && *ratio <= most))
      return usage_error(
          fmt::format("--{} takes a number from 0 to {}, not {}.", name, most, in_quotes(text)));
    options.*member = *ratio;
    return {};
  };
  return {std::move(info), std::move(set)};
}

}  // namespace

analysis::OptionDeclarations<Options> option_declarations() {
  return {
      mining::within_option<Options>(),
      mining::level_option<Options>("what is bought together"),
      analysis::text_option<Options>(
          {"product", "ID", "", "everything about one product's companions, by id or name"},
          &Options::product),
      mining::support_option("basket", "the least number of baskets with a pair or set", &Options::support),
      ratio_option(
          {"confidence", "SHARE", "0", "least share of baskets with one that also contain the other"},
          &Options::confidence, 1),
      ratio_option({"lift", "RATIO", "0", "least lift"}, &Options::lift, 1'000'000),
      analysis::whole_option<Options>({"size", "N", "3", "smallest size of the sets listed"}, &Options::size,
                                      2, 12),
      analysis::whole_option<Options>({"largest", "N", "5", "largest size of sets"}, &Options::largest, 2,
                                      12),
      mining::only_option<Options>("sets that no larger one"),
      ratio_option({"min-gain", "SHARE", "0.05", "least gain in confidence over a rule's shorter forms"},
                   &Options::min_gain, 1),
      mining::at_most_option<Options>("sets"),
      {{"sort", "COLUMN [desc],...", "both desc", "the order of pairs"},
       [](Options& options, std::string_view text) -> OrError<void> {
         auto keys = expression::parse_sort(text);
         if (!keys) return analysis::in_option("sort", keys.error());
         options.sort = std::move(*keys);
         return {};
       }}};
}

}  // namespace pear::together
