#include "questions/baskets/question.hpp"

#include <utility>

#include <fmt/format.h>

#include "analysis/expression_option.hpp"
#include "analysis/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/baskets/tables.hpp"

namespace pear::baskets {
namespace {

void add_checks(const Finding& finding, result::Result& result) {
  const BasketValues& facts = finding.facts;
  std::uint64_t of_make_ups = 0, alone = 0;
  DecimalSum make_up_sales, item_sales;
  for (const Composition& each : facts.make_ups) {
    of_make_ups += each.sum.baskets;
    make_up_sales.add(each.sum.sales);
  }
  for (const PulledBaskets& each : facts.items) {
    alone += each.alone;
    item_sales.add(each.own.sales);
  }
  result.checks.push_back({fmt::format("baskets of all make-ups add up to {}",
                                       with_thousands(static_cast<std::int64_t>(facts.baskets))),
                           of_make_ups == facts.baskets && alone == facts.by_size[1]});
  const auto total = make_up_sales.total();
  result.checks.push_back(
      {fmt::format("sales of all make-ups, {}, are those of all {}", total ? with_thousands(*total) : "",
                   analysis::plural_of(finding.item)),
       make_up_sales == item_sales});
}

void add_notes(const Finding& finding, result::Result& result) {
  if (!finding.facts.has_costs)
    result.notes.emplace_back("The daybook has no costs: sales stand in place of margins.");
  if (finding.facts.lines_without_cost > 0)
    result.notes.push_back(fmt::format("{} without a cost: their margin is not known and not counted.",
                                       counted(finding.facts.lines_without_cost, "line is", "lines are")));
}

result::Definitions definitions_of(const Finding& finding) {
  result::Definitions definitions = {
      {"basket", fmt::format("the different {} of {}, returns left out", analysis::plural_of(finding.item),
                             mining::describe_baskets(finding.options.within))},
      {"pull",
       fmt::format(
           "mean over its baskets: {0} of the rest, less the mean {0} of baskets without it that hold as "
           "many {1} as the rest (1, 2, 3, 4, 5 to 6, 7 and more) in the same month; alone: 0",
           finding.value(), analysis::plural_of(finding.item))},
      {"pull_low, pull_high", "95% interval: bootstrap over up to 200 groups of customers, 1,000 times"}};
  if (finding.options.discount)
    definitions.emplace_back(
        "more_baskets",
        "baskets x d / (basket margin - d), d being the discount by basket: as many again as earn "
        "what the discount takes");
  return definitions;
}

}  // namespace

OrError<result::Result> ask(const analysis::QuestionInput& asked, const Options& options) {
  const expression::LineView lines(asked.daybook, asked.grains);
  PEAR_ASSIGN(auto key, mining::basket_key(options.level, lines));
  Finding finding{asked, options, std::move(key.first), std::move(key.second), {}};
  finding.facts = basket_values(asked.daybook, finding.key, options.within);
  if (finding.facts.baskets == 0) return data_error("nothing was bought, so there is no basket.");
  result::Result result;
  result.question = "baskets";
  result.population = asked.population;
  result.definitions = definitions_of(finding);
  result.headline = headline_of(finding);
  result.tables = {compositions_table(finding), basket_sizes_table(finding), pull_table(finding)};
  result.figures = figures_of(finding);
  add_checks(finding, result);
  add_notes(finding, result);
  return result;
}

namespace {

analysis::OptionDeclarations<Options> baskets_options() {
  using Options = Options;
  return {mining::within_option<Options>(),
          analysis::tree_option<Options>(
              {"level", "COLUMN", "product_id", "what baskets are made of: any column of products"},
              &Options::level),
          {{"discount", "PER-CENT", "", "how many more baskets would pay for so many per cent off"},
           [](Options& options, std::string_view text) -> OrError<void> {
             if (text.ends_with('%')) text.remove_suffix(1);
             const auto value = Decimal::parse(text);
             if (!value || value->units() <= 0 || value->units() > 100 * Decimal::kScale)
               return usage_error(fmt::format(
                   "--discount takes a number of per cent above 0, up to 100, such as 10, not {}.",
                   in_quotes(text)));
             options.discount = value->units();
             return {};
           }},
          analysis::whole_option<Options>(
              {"at-least", "N", "20", "baskets that a product must be in to be told of"}, &Options::at_least,
              1, 1'000'000'000)};
}

}  // namespace

analysis::Question question() {
  return {"baskets",
          "what baskets are made of, what they bring, and which products pull profitable ones",
          "Counts baskets by the set of products in them, with sales, cost and margin; and for each product "
          "sets\n"
          "what it earns beside what the rest of its baskets earns, more or less than baskets without it.",
          {"pear-thread baskets shop.daybook", "pear-thread baskets --discount 10",
           "pear-thread baskets --level category", "pear-thread baskets --within \"14 days\""},
          analysis::infos(baskets_options()),
          [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
            PEAR_ASSIGN(const Options options, analysis::read_options(baskets_options(), values));
            analysis::PreparedQuestion prepared = mining::prepared_for_baskets(options.level);
            prepared.ask = [options](const analysis::QuestionInput& asked) { return ask(asked, options); };
            return prepared;
          }};
}

}  // namespace pear::baskets
