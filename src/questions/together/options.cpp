#include "questions/together/options.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "analysis/options/share.hpp"
#include "base/decimal.hpp"
#include "base/text.hpp"
#include "mining/mining_options.hpp"

namespace pear::together {
namespace {

OrError<void> set_lift(Options& options, std::string_view text) {
  const auto ratio = Decimal::parse(text);
  if (!ratio || ratio->units() < 0)
    return usage_error(
        fmt::format("--lift takes a number of 0 or more, such as 1.5, not {}.", in_quotes(text)));
  options.lift = static_cast<double>(ratio->units()) / Decimal::kScale;
  return {};
}

}  // namespace

analysis::OptionDeclarations<Options> option_declarations() {
  return {
      mining::basket_option<Options>(),
      mining::items_option<Options>("what is bought together"),
      analysis::text_option<Options>(
          {"product", "ID", "", "everything about one product's companions, by id or name"},
          &Options::product),
      mining::support_option("basket", "the least number of baskets with a pair or set", &Options::support),
      analysis::share_option<Options>(
          {"confidence", "SHARE", "0%", "least share of baskets with one that also contain the other"},
          &Options::confidence),
      {{"lift", "RATIO", "0", "least lift"}, set_lift},
      analysis::whole_option<Options>({"size", "N", "3", "smallest size of the sets listed"}, &Options::size,
                                      2, 12),
      analysis::whole_option<Options>({"largest", "N", "5", "largest size of sets"}, &Options::largest, 2,
                                      12),
      mining::only_option<Options>("sets that no larger one"),
      analysis::share_option<Options>(
          {"min-gain", "SHARE", "5%", "least gain in confidence over a rule's shorter forms"},
          &Options::min_gain),
      mining::at_most_option<Options>("sets")};
}

OrError<Options> read(const analysis::OptionValues& values) {
  PEAR_ASSIGN(Options options, analysis::read_options(option_declarations(), values));
  const bool has_size =
      std::any_of(values.begin(), values.end(), [](const auto& value) { return value.first == "size"; });
  if (!has_size) options.size = std::min(options.size, options.largest);
  if (options.size > options.largest)
    return usage_error(fmt::format("--size {} is more than --largest {}.", options.size, options.largest));
  return options;
}

}  // namespace pear::together
