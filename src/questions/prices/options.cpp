#include "questions/prices/options.hpp"

#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "analysis/options/share.hpp"
#include "base/text.hpp"

namespace pear::prices {
namespace {

analysis::OptionDeclaration<Options> bound_option(analysis::OptionInfo info,
                                                  std::optional<std::int64_t> Options::*member) {
  auto set = [name = info.name, member](Options& options, std::string_view text) -> OrError<void> {
    PEAR_ASSIGN(options.*member, analysis::parse_share(name, text, 0, analysis::kNoHighestShare));
    return {};
  };
  return {std::move(info), std::move(set)};
}

}  // namespace

analysis::OptionDeclarations<Options> option_declarations() {
  return {analysis::word_option<Options>(
              {"against", "WHAT", "others",
               "what prices are compared with: all, others (all but the customer), or list"},
              &Options::against, {"all", "others", "list"}),
          bound_option({"below", "SHARE", "", "only prices below this share of it, such as 95%"},
                       &Options::below),
          bound_option({"above", "SHARE", "", "only prices above this share of it, such as 110%"},
                       &Options::above),
          analysis::text_option<Options>(
              {"product", "ID", "", "one product, by id or name: its customers, and its price by month"},
              &Options::product),
          analysis::whole_option<Options>(
              {"at-least", "N", "20", "customers that a product needs to compare prices by quantity"},
              &Options::at_least, 2, 1'000'000)};
}

}  // namespace pear::prices
