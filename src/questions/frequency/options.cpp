#include "questions/frequency/options.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "analysis/options/length_of_time.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "expression/syntax/parse.hpp"

namespace pear::frequency {
namespace {

/// The aggregate that --count means: an aggregate itself; for dates and columns the number of distinct values
/// in purchases.
OrError<void> set_count(Options& options, std::string_view text) {
  auto list = expression::parse_list(text);
  if (!list) return analysis::in_option("count", list.error());
  if (list->size() != 1) return usage_error("--count takes one expression, not a list.");
  expression::Tree tree = std::move(list->front());
  const std::vector<std::string> ready = expression::ready_figures();
  const bool is_ready = std::find(ready.begin(), ready.end(), tree.text) != ready.end();
  if (tree.text == "orders") return {};
  if (!expression::has_aggregate(tree.root) && !is_ready) {
    const bool days = tree.text == "days";
    std::string name = tree.name;
    if (name == tree.text && !days)
      name = tree.root.op == expression::Op::column ? snake_case(analysis::plural_of(analysis::noun_of(name)))
                                                    : "different_values";
    auto distinct = expression::parse_tree(
        fmt::format("count(distinct {}) filter (where not is_return)", days ? "order_date" : tree.text));
    if (!distinct) return analysis::in_option("count", distinct.error());
    tree = std::move(*distinct);
    tree.name = std::move(name);
  }
  const bool of_column =
      tree.root.op == expression::Op::sum && tree.root.args.front().op == expression::Op::column;
  if (of_column && tree.name == tree.text)
    tree.name = tree.root.args.front().text;  // "amount" for sum(amount)
  options.count = std::move(tree);
  return {};
}

OrError<void> set_bands(Options& options, std::string_view text) {
  PEAR_ASSIGN(options.bands, analysis::parse_bands(text));
  return {};
}

}  // namespace

analysis::OptionDeclarations<Options> option_declarations() {
  return {
      analysis::days_option<Options>({"within", "DAYS", "", "count only this time after each first order"},
                                     &Options::within, 1, 36'500),
      analysis::switch_option<Options>(
          {"include-incomplete", "", "", "include customers whose time is not over"},
          &Options::include_incomplete),
      {{"bands", "1,2-5,6-10,11+", "", "customers by band instead of by number"}, set_bands},
      analysis::list_option<Options>({"by", "COLUMN,...", "", "a distribution for each value, side by side"},
                                     &Options::by),
      {{"count", "days|COLUMN|FIGURE", "orders", "what is counted for each customer"}, set_count},
      analysis::switch_option<Options>(
          {"list", "", "", "also write each customer: who is going quiet, and how many such order again"},
          &Options::list),
      analysis::days_option<Options>(
          {"horizon", "DAYS", "90", "with --list: how far ahead, for the share who order again"},
          &Options::horizon, 1, 3'650)};
}

OrError<Options> read_options(const analysis::OptionValues& values) {
  PEAR_ASSIGN(Options options, analysis::read_options(option_declarations(), values));
  if (options.include_incomplete && !options.within)
    return usage_error("--include-incomplete needs the window of --within.");
  return options;
}

}  // namespace pear::frequency
