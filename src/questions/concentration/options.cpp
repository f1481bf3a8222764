#include "questions/concentration/options.hpp"

#include <utility>

#include <fmt/format.h>

#include "analysis/expression_option.hpp"
#include "analysis/share.hpp"
#include "base/text.hpp"
#include "expression/syntax/parse.hpp"

namespace pear::concentration {
namespace {

OrError<void> set_classes(Options& options, std::string_view text) {
  options.classes.clear();
  for (const std::string& part : comma_separated(text)) {
    const auto end = analysis::parse_per_cent(part);
    const std::int64_t before = options.classes.empty() ? 0 : options.classes.back();
    if (!end || *end <= before || *end >= 100 * Decimal::kScale)
      return usage_error(
          fmt::format("--classes takes rising per cents between 0 and 100 with commas between them, such as "
                      "80,95, not {}.",
                      in_quotes(text)));
    options.classes.push_back(*end);
  }
  return {};
}

}  // namespace

analysis::OptionDeclarations<Options> option_declarations() {
  return {
      analysis::tree_option<Options>({"of", "COLUMN", "customer_id", "whose shares are looked at"},
                                     &Options::of),
      analysis::tree_option<Options>({"show", "FIGURE", "sum(amount) as amount", "what is shared out"},
                                     &Options::show),
      {{"classes", "80,95", "80,95", "running shares, in per cent, at which classes A and B end"},
       set_classes},
      analysis::list_option<Options>({"by", "COLUMN,...", "", "a ranking of its own for each value"},
                                     &Options::by),
      analysis::tree_option<Options>(
          {"compare", "COLUMN", "", "the same for each value (year): whether it grows"}, &Options::compare)};
}

OrError<Options> read(const analysis::OptionValues& values) {
  PEAR_ASSIGN(Options options, analysis::read_options(option_declarations(), values));
  if (!options.of) {
    PEAR_ASSIGN(options.of, expression::parse_tree(daybook::role::kCustomerId));
  }
  if (!options.show) {
    PEAR_ASSIGN(options.show, expression::parse_tree("sum(amount)"));
    options.show->name = "amount";
  }
  return options;
}

}  // namespace pear::concentration
