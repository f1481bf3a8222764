#include "questions/concentration/options.hpp"

#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "analysis/options/share.hpp"
#include "base/text.hpp"
#include "daybook/daybook.hpp"
#include "expression/syntax/parse.hpp"

namespace pear::concentration {
namespace {

OrError<void> set_classes(Options& options, std::string_view text) {
  options.classes.clear();
  for (const std::string& part : comma_separated(text)) {
    PEAR_ASSIGN(const std::int64_t end, analysis::parse_share("classes", part));
    const std::int64_t before = options.classes.empty() ? 0 : options.classes.back();
    if (end <= before || end >= analysis::kWholeShare)
      return usage_error(fmt::format(
          "--classes takes rising shares between 0% and 100%, separated by commas, such as 80%,95%, not {}.",
          in_quotes(text)));
    options.classes.push_back(end);
  }
  return {};
}

}  // namespace

analysis::OptionDeclarations<Options> option_declarations() {
  return {
      analysis::tree_option<Options>({"per", "COLUMN", "customer_id", "what is ranked"}, &Options::per),
      analysis::tree_option<Options>({"count", "FIGURE", "sum(amount) as amount", "the figure to rank by"},
                                     &Options::count),
      {{"classes", "SHARE,SHARE", "80%,95%", "cumulative shares at which classes A and B end"}, set_classes},
      analysis::list_option<Options>({"by", "COLUMN,...", "", "a separate ranking for each value"},
                                     &Options::by),
      analysis::tree_option<Options>(
          {"compare", "COLUMN", "", "compares the concentration of each value, such as year"},
          &Options::compare)};
}

OrError<Options> read(const analysis::OptionValues& values) {
  PEAR_ASSIGN(Options options, analysis::read_options(option_declarations(), values));
  if (!options.per) {
    PEAR_ASSIGN(options.per, expression::parse_tree(daybook::role::kCustomerId));
  }
  if (!options.count || options.count->text == "amount") {
    PEAR_ASSIGN(options.count, expression::parse_tree("sum(amount)"));
    options.count->name = "amount";
  }
  return options;
}

}  // namespace pear::concentration
