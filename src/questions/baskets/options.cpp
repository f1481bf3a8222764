#include "questions/baskets/options.hpp"

#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "analysis/options/share.hpp"
#include "base/text.hpp"
#include "mining/mining_options.hpp"

namespace pear::baskets {

analysis::OptionDeclarations<Options> option_declarations() {
  return {
      mining::basket_option<Options>(),
      mining::items_option<Options>("the items of baskets"),
      {{"discount", "SHARE", "", "how many more baskets would pay for this discount"},
       [](Options& options, std::string_view text) -> OrError<void> {
         PEAR_ASSIGN(options.discount, analysis::parse_share("discount", text, 1));
         return {};
       }},
      analysis::whole_option<Options>({"at-least", "N", "20", "baskets that a product needs to be tested"},
                                      &Options::at_least, 1, 1'000'000'000)};
}

}  // namespace pear::baskets
