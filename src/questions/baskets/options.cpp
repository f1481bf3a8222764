#include "questions/baskets/options.hpp"

#include <utility>

#include <fmt/format.h>

#include "analysis/expression_option.hpp"
#include "analysis/share.hpp"
#include "base/text.hpp"
#include "mining/mining_options.hpp"

namespace pear::baskets {

analysis::OptionDeclarations<Options> option_declarations() {
  return {
      mining::within_option<Options>(),
      mining::level_option<Options>("the items of baskets"),
      {{"discount", "PER-CENT", "", "how many more baskets would pay for this discount, in per cent"},
       [](Options& options, std::string_view text) -> OrError<void> {
         const auto per_cent = analysis::parse_per_cent(text);
         if (!per_cent || *per_cent <= 0 || *per_cent > 100 * Decimal::kScale)
           return usage_error(fmt::format(
               "--discount takes a percentage above 0, up to 100, such as 10, not {}.", in_quotes(text)));
         options.discount = *per_cent;
         return {};
       }},
      analysis::whole_option<Options>({"at-least", "N", "20", "baskets that a product needs to be tested"},
                                      &Options::at_least, 1, 1'000'000'000)};
}

}  // namespace pear::baskets
