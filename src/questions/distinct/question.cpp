#include "questions/distinct/question.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/expression_option.hpp"
#include "base/text.hpp"
#include "questions/distinct/finding.hpp"

namespace pear::distinct {
namespace {

void add_notes(const Finding& finding, result::Result& result) {
  if (result.population.returns > 0)
    result.notes.push_back(
        fmt::format("{} not counted: {}.", counted(result.population.returns, "line is", "lines are"),
                    result.population.returns == 1 ? "it is a return" : "they are returns"));
  const auto missing = static_cast<std::uint64_t>(std::count(
      finding.keys.counted.codes.begin(), finding.keys.counted.codes.end(), finding.keys.counted.distinct));
  if (missing > 0)
    result.notes.push_back(
        fmt::format("{} no {}; an empty value is none.",
                    counted(missing, fmt::format("{} has", daybook::to_text(finding.keys.counted.level)),
                            fmt::format("{}s have", daybook::to_text(finding.keys.counted.level))),
                    finding.counted_name()));
}

void add_checks(const Finding& finding, result::Result& result) {
  std::uint64_t lines = 0;
  for (const std::uint32_t cell : finding.rows) lines += finding.facts[cell].lines;
  result.checks.push_back({fmt::format("lines add up to all {} that are not returns",
                                       with_thousands(static_cast<std::int64_t>(result.population.lines -
                                                                                result.population.returns))),
                           lines == result.population.lines - result.population.returns});
  result.checks.push_back(
      {"no row has more different values than lines, or more orders than lines",
       std::all_of(finding.facts.begin(), finding.facts.end(), [](const CellFacts& facts) {
         return facts.distinct <= facts.lines && facts.orders <= facts.lines;
       })});
}

/// The members counted another way: each row of the table has as many.
result::Check members_agree(const Finding& finding, const std::vector<Member>& members) {
  std::vector<std::uint32_t> listed(finding.facts.size());
  for (const Member& member : members) ++listed[member.cell];
  bool holds = true;
  for (std::size_t cell = 0; cell < listed.size(); ++cell)
    holds = holds && listed[cell] == finding.facts[cell].distinct;
  return {fmt::format("the list has as many {} as are counted", finding.counted_noun(2)), holds};
}

}  // namespace

OrError<result::Result> ask(const analysis::QuestionInput& asked, const Options& options) {
  const expression::LineView lines(asked.daybook, asked.grains);
  Finding finding{options, asked.daybook, {}, {}, {}};
  PEAR_ASSIGN(finding.keys, distinct_keys(options, lines));
  finding.facts = count_distinct(asked.daybook, finding.keys);
  finding.rows = ordered_rows(finding.keys, finding.facts);

  result::Result result;
  result.question = "distinct";
  result.population = asked.population;
  result.definitions = {{"distinct", "different values in lines that are not returns; empty values are none"},
                        {"orders", "different pairs of customer and order id among these lines"}};
  result.headline = headline_of(finding);
  result.tables.push_back(main_table(finding));
  if (!options.per.empty()) result.tables.push_back(distribution_table(finding));
  add_checks(finding, result);
  if (options.list) {
    const std::vector<Member> members = list_members(asked.daybook, finding.keys);
    PEAR_ASSIGN(result::Table list, members_table(finding, members));
    result.tables.push_back(std::move(list));
    result.checks.push_back(members_agree(finding, members));
  }
  result.figures = figures_of(finding);
  add_notes(finding, result);
  return result;
}

namespace {

analysis::OptionDeclarations<Options> distinct_options() {
  using Options = Options;
  return {
      analysis::tree_option<Options>(
          {"count", "COLUMN", "product_id", "what is counted: each different value once"}, &Options::count),
      analysis::list_option<Options>(
          {"per", "COLUMN,...", "", "of what it is counted; of everything where left out"}, &Options::per),
      analysis::switch_option<Options>({"list", "", "", "also write which they are"}, &Options::list)};
}

}  // namespace

analysis::Question question() {
  return {
      "distinct",
      "how many different products, customers, ... there are, of all or of each",
      "Counts each different value once, and shows beside it the orders and lines that hold any, so that\n"
      "203 order lines are not taken for 203 customers. --list says who or which they are.",
      {"pear-thread distinct shop.daybook --count product_id --per customer_id",
       "pear-thread distinct --count customer_id --per category,year",
       "pear-thread distinct --count customer_id --where \"product_id = 'P43'\" --list"},
      analysis::infos(distinct_options()),
      [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
        PEAR_ASSIGN(const Options options, analysis::read_options(distinct_options(), values));
        const std::string counted =
            options.count ? options.count->name : std::string(daybook::role::kProductId);
        for (const expression::Tree& tree : options.per)
          if (tree.name == counted)
            return usage_error(fmt::format("--count {} stands in --per as well: there is one of it in each.",
                                           in_quotes(counted)));
        analysis::PreparedQuestion prepared;
        prepared.columns = {std::string(daybook::role::kOrderDate), std::string(daybook::role::kIsReturn)};
        if (options.list) prepared.columns.emplace_back(daybook::role::kAmount);
        if (!options.count) prepared.columns.emplace_back(daybook::role::kProductId);
        if (options.count) prepared.trees.push_back({"count", *options.count, {}});
        for (const expression::Tree& tree : options.per) prepared.trees.push_back({"per", tree, {}});
        for (const analysis::GivenExpression& given : prepared.trees) {  // names stand beside ids
          if (given.tree.text == daybook::role::kProductId) prepared.where_there.emplace_back("product_name");
          if (options.list && given.tree.text == daybook::role::kCustomerId)
            prepared.where_there.emplace_back("customer_name");
        }
        prepared.ask = [options](const analysis::QuestionInput& asked) { return ask(asked, options); };
        return prepared;
      }};
}

}  // namespace pear::distinct
