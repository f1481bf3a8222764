#include "questions/first/options.hpp"

#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "analysis/options/length_of_time.hpp"
#include "base/text.hpp"
#include "daybook/daybook.hpp"
#include "expression/syntax/parse.hpp"

namespace pear::first {
namespace {

/// "product" is short for product_id.
OrError<void> set_per(Options& options, std::string_view text) {
  auto list = expression::parse_list(text == "product" ? daybook::role::kProductId : text);
  if (!list) return analysis::in_option("per", list.error());
  if (list->size() != 1) return usage_error("--per takes one column, not a list.");
  options.per = std::move(list->front());
  return {};
}

}  // namespace

analysis::OptionDeclarations<Options> option_declarations() {
  return {
      {{"per", "product|COLUMN", "", "also the first purchase of each product, or value of a column"},
       set_per},
      analysis::list_option<Options>({"by", "COLUMN,...", "", "new customers by month for each value"},
                                     &Options::by),
      analysis::days_option<Options>({"follow", "DAYS", "180", "the time in which a repeat order counts"},
                                     &Options::follow, 2, 36'500),
      analysis::days_option<Options>({"run-in", "DAYS", "from the days between orders",
                                      "the time at the start whose customers are not called new; 0: none"},
                                     &Options::run_in, 0, 36'500),
      analysis::whole_option<Options>(
          {"at-least", "N", "20", "customers that an entry product needs to be compared"}, &Options::at_least,
          1, 1'000'000'000)};
}

}  // namespace pear::first
