#include "questions/prices/options.hpp"

#include <utility>

#include <fmt/format.h>

#include "analysis/expression_option.hpp"
#include "analysis/share.hpp"
#include "base/text.hpp"

namespace pear::prices {
namespace {

analysis::OptionDeclaration<Options> per_cent_option(analysis::OptionInfo info,
                                                     std::optional<std::int64_t> Options::*member) {
  auto set = [name = info.name, member](Options& options, std::string_view text) -> OrError<void> {
    const auto per_cent = analysis::parse_per_cent(text);
    if (!per_cent || *per_cent < 0)
      return usage_error(
          fmt::format("--{} takes a percentage of 0 or more, such as 95, not {}.", name, in_quotes(text)));
    options.*member = *per_cent;
    return {};
  };
  return {std::move(info), std::move(set)};
}

}  // namespace

analysis::OptionDeclarations<Options> option_declarations() {
  return {
      analysis::word_option<Options>(
          {"against", "WHAT", "others",
           "what prices are compared with: all, others (all but the customer), or list"},
          &Options::against, {"all", "others", "list"}),
      per_cent_option({"below", "PER-CENT", "", "only prices below this percentage of it"}, &Options::below),
      per_cent_option({"above", "PER-CENT", "", "only prices above this percentage of it"}, &Options::above),
      analysis::text_option<Options>(
          {"product", "ID", "", "one product, by id or name: its customers, and its price by month"},
          &Options::product),
      analysis::whole_option<Options>(
          {"at-least", "N", "20", "customers that a product needs to compare prices by quantity"},
          &Options::at_least, 2, 1'000'000)};
}

}  // namespace pear::prices
