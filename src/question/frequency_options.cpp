// The declaration of frequency: its options, and how they are read.
#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "question/frequency.hpp"
#include "question/nouns.hpp"
#include "question/tree_option.hpp"

namespace pear {
namespace {

/// What --count stands for: an aggregate as it is; days and columns as the different ones of purchases.
OrError<void> set_count(FrequencyOptions& options, std::string_view text) {
  auto list = parse_list(text);
  if (!list) return in_option("count", list.error());
  if (list->size() != 1) return usage_error("--count takes one expression, not a list.");
  Tree tree = std::move(list->front());
  const std::vector<std::string> ready = ready_figures();
  const bool is_ready = std::find(ready.begin(), ready.end(), tree.text) != ready.end();
  if (tree.text == "orders") return {};
  if (!has_aggregate(tree.root) && !is_ready) {
    const bool days = tree.text == "days";
    std::string name = tree.name;
    if (name == tree.text && !days)
      name = tree.root.op == Op::column ? snake_case(plural_of(noun_of(name))) : "different_values";
    auto distinct = parse_tree(
        fmt::format("count(distinct {}) filter (where not is_return)", days ? "order_date" : tree.text));
    if (!distinct) return in_option("count", distinct.error());
    tree = std::move(*distinct);
    tree.name = std::move(name);
  }
  const bool of_column = tree.root.op == Op::sum && tree.root.args.front().op == Op::column;
  if (of_column && tree.name == tree.text)
    tree.name = tree.root.args.front().text;  // "amount" for sum(amount)
  options.count = std::move(tree);
  return {};
}

OrError<void> set_bands(FrequencyOptions& options, std::string_view text) {
  PEAR_ASSIGN(options.bands, parse_bands(text));
  return {};
}

OptionDeclarations<FrequencyOptions> frequency_options() {
  using Options = FrequencyOptions;
  return {whole_option<Options>({"within", "N", "", "count each customer's first N days only"},
                                &Options::within, 1, 36'500),
          switch_option<Options>({"include-incomplete", "", "", "also customers whose N days are not over"},
                                 &Options::include_incomplete),
          {{"bands", "1,2-5,6-10,11+", "", "customers by band in place of by number"}, set_bands},
          list_option<Options>({"by", "COLUMN,...", "", "a distribution for each value, side by side"},
                               &Options::by),
          {{"count", "days|COLUMN|FIGURE", "orders", "what is counted for each customer"}, set_count},
          switch_option<Options>({"list", "", "", "also write who they are"}, &Options::list)};
}

OrError<FrequencyOptions> read_frequency(const OptionValues& values) {
  PEAR_ASSIGN(FrequencyOptions options, read_options(frequency_options(), values));
  if (options.include_incomplete && !options.within)
    return usage_error("--include-incomplete speaks of the window of --within, and there is none.");
  return options;
}

}  // namespace

Question frequency_question() {
  return {
      "frequency",
      "how many customers ordered how often",
      "Counts each customer's orders and shows how many customers placed one, two, three and more; who\n"
      "came back, and after how many days. With --within N only the first N days of each customer\n"
      "count, and only customers whose N days lie wholly within the data, so that old customers are\n"
      "not compared with new ones. --by compares groups of customers.",
      {"pear-thread frequency shop.daybook", "pear-thread frequency shop.daybook --within 90 --by first_year",
       "pear-thread frequency --bands 1,2-5,6-10,11+ --by region --list",
       "pear-thread frequency --count \"sum(amount) as amount\" --bands 0-100,100-500,500+"},
      infos(frequency_options()),
      [](const OptionValues& values) -> OrError<PreparedQuestion> {
        PEAR_ASSIGN(const FrequencyOptions options, read_frequency(values));
        PreparedQuestion prepared;
        prepared.columns = {std::string(role::kOrderDate), std::string(role::kIsReturn)};
        if (options.list) prepared.columns.emplace_back(role::kCustomerId);
        for (const Tree& tree : options.by) prepared.trees.push_back({"by", tree, {}});
        if (options.count) prepared.trees.push_back({"count", *options.count, ready_figures()});
        prepared.ask = [options](const Asked& asked) { return ask_frequency(asked, options); };
        return prepared;
      },
      "",
      24};
}

}  // namespace pear
