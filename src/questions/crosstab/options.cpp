#include "questions/crosstab/options.hpp"

#include <algorithm>
#include <set>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "base/text.hpp"
#include "expression/syntax/parse.hpp"

namespace pear::crosstab {
namespace {

OrError<void> set_shares(Options& options, std::string_view text) {
  for (const std::string& part : comma_separated(text)) {
    PEAR_ASSIGN(const std::size_t word,
                analysis::parse_word("share", part, {"row", "column", "parent", "all"}));
    options.shares.push_back(static_cast<ShareOf>(word));
  }
  return {};
}

OrError<void> set_against(Options& options, std::string_view text) {
  for (const std::string& part : comma_separated(text))
    options.against.push_back({part, ShareOf::parent, {}});
  return {};
}

/// One of the words, or a column of --down.
OrError<void> settle_against(Options& options) {
  std::vector<std::string> names = {"row", "column", "parent", "all"};
  const std::size_t words = names.size();
  names.emplace_back("previous");
  for (const expression::Tree& tree : options.down) names.push_back(tree.name);
  for (Comparison& each : options.against) {
    const auto found = std::find_if(names.begin(), names.end(), [&](const std::string& name) {
      return snake_case(name) == snake_case(each.with);
    });
    if (found == names.end())
      return usage_error(fmt::format("--against takes {}, not {}.{}", join(names, ", "), in_quotes(each.with),
                                     did_you_mean(each.with, names)));
    const auto place = static_cast<std::size_t>(found - names.begin());
    if (place < words)
      each.of = static_cast<ShareOf>(place);
    else if (place == words)
      each.is_previous = true;
    else
      each.depth = place - words;
  }
  return {};
}

OrError<void> set_running(Options& options, std::string_view text) {
  PEAR_ASSIGN(const std::size_t word, analysis::parse_word("running", text, {"down", "across"}));
  options.running = static_cast<Direction>(word);
  return {};
}

/// "REGION=North,YEAR=2024"; a value with a comma is in single quotes.
OrError<void> set_details(Options& options, std::string_view text) {
  while (!text.empty()) {
    const std::size_t sign = text.find('=');
    if (sign == std::string_view::npos || sign == 0)
      return usage_error(
          fmt::format("--details takes column=value, several separated by commas, not {}.", in_quotes(text)));
    const std::string key(text.substr(0, sign));
    text.remove_prefix(sign + 1);
    const bool quoted = text.starts_with('\'');
    const std::size_t end = quoted ? text.find('\'', 1) : text.find(',');
    if (quoted && end == std::string_view::npos)
      return usage_error(
          fmt::format("--details: the quotation mark before {} is not closed.", in_quotes(text.substr(1))));
    options.details.emplace_back(key, quoted ? text.substr(1, end - 1) : text.substr(0, end));
    text.remove_prefix(end == std::string_view::npos ? text.size() : end + (quoted ? 1 : 0));
    if (!text.empty() && text.front() == ',') text.remove_prefix(1);
  }
  return {};
}

/// Two columns of one name could not be distinguished.
OrError<void> check_distinct_names(const Options& options) {
  std::set<std::string> names;
  for (const auto* list : {&options.down, &options.across, &options.figures}) {
    for (const expression::Tree& tree : *list) {
      if (!names.insert(tree.name).second)
        return usage_error(
            fmt::format("{} occurs twice in --down, --across and --count. Give one another name with AS.",
                        in_quotes(tree.name)));
    }
  }
  return {};
}

}  // namespace

analysis::OptionDeclarations<Options> option_declarations() {
  return {analysis::list_option<Options>(
              {"down", "COLUMN,...", "", "what makes the rows, from the outside in"}, &Options::down),
          analysis::list_option<Options>(
              {"across", "COLUMN,...", "", "what makes the columns, from the outside in"}, &Options::across),
          analysis::list_option<Options>(
              {"count", "FIGURE,...", "sum(amount) as sales", "the figures in the cells"}, &Options::figures),
          {{"share", "row,column,parent,all", "", "each figure also as a share of its row, column, ..."},
           set_shares},
          analysis::switch_option<Options>({"shares-only", "", "", "shares instead of the figures"},
                                           &Options::shares_only),
          {{"against", "previous,parent,COLUMN,...", "",
            "each figure compared with that of the period before, the row above, all, or a named row"},
           set_against},
          {{"running", "down|across", "", "running totals and cumulative shares of sums and counts"},
           set_running},
          analysis::condition_option<Options>(
              {"having", "CONDITION", "", "only rows whose figures meet a condition"}, &Options::having),
          analysis::sort_option<Options>({"sort", "FIGURE [desc],...", "by the rows' own order",
                                          "the order of rows within their parent"},
                                         &Options::sort),
          analysis::whole_option<Options>(
              {"keep", "N", "", "the N largest rows of each level, and the rest as other"}, &Options::keep, 1,
              1'000'000),
          analysis::word_option<Options>(
              {"empty", "0|blank", "0", "the value of a sum or count in a cell without lines"},
              &Options::empty, {"0", "blank"}),
          analysis::whole_option<Options>({"limit", "N", "", "the number of rows in the main table"},
                                          &Options::limit, 1, 1'000'000'000),
          analysis::whole_option<Options>({"offset", "N", "0", "rows of the main table to skip"},
                                          &Options::offset, 0, 1'000'000'000),
          {{"details", "COLUMN=VALUE,...", "", "also writes the lines of this cell"}, set_details}};
}

OrError<Options> read(const analysis::OptionValues& values) {
  PEAR_ASSIGN(Options options, analysis::read_options(option_declarations(), values));
  if (options.down.empty() && options.across.empty())
    return usage_error("crosstab needs --down or --across: pear-thread crosstab --down region --across year");
  PEAR_ASSIGN(const std::vector<expression::Tree> sales, expression::parse_list("sum(amount) as sales"));
  if (options.figures.empty()) options.figures = sales;
  for (expression::Tree& figure : options.figures)  // the default by its name
    if (figure.text == sales.front().name) figure = sales.front();
  if (options.shares_only && options.shares.empty())
    return usage_error("--shares-only needs --share, to say what the shares relate to.");
  PEAR_TRY(settle_against(options));
  PEAR_TRY(check_distinct_names(options));
  return options;
}

}  // namespace pear::crosstab
