#include "questions/together/question.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "analysis/expression_option.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/together/finding.hpp"

namespace pear::together {
namespace {

void add_checks(const Finding& finding, result::Result& result) {
  bool fits = true;
  for (const ItemPair& pair : finding.pairs)
    fits = fits && pair.both <= std::min(finding.baskets.counts[pair.a], finding.baskets.counts[pair.b]);
  result.checks.push_back({"no pair is in more baskets than either of the two", fits});
  std::uint64_t alone = 0, held = 0;
  for (const std::uint32_t count : finding.baskets.alone) alone += count;
  for (const std::uint32_t count : finding.baskets.counts) held += count;
  std::uint64_t items = 0, single = 0;
  for (std::size_t basket = 0; basket < finding.baskets.size(); ++basket) {
    items += finding.baskets.of(basket).size();
    single += finding.baskets.of(basket).size() == 1 ? 1U : 0U;
  }
  result.checks.push_back({fmt::format("the baskets of each {} add up to the {} in all {}", finding.item,
                                       counted(items, finding.item, analysis::plural_of(finding.item)),
                                       counted(finding.baskets.size(), "basket")),
                           items == held && single == alone});
}

void add_notes(const Finding& finding, result::Result& result) {
  result.notes.push_back(fmt::format(
      "Support: {} of {} or more{}.{}", counted(finding.least, "basket"),
      with_thousands(static_cast<std::int64_t>(finding.baskets.size())),
      finding.options.support ? "" : ", chosen by the number of baskets (--support chooses another)",
      finding.about && !finding.options.support ? " Pairs are listed whatever their support." : ""));
  std::uint64_t found = 0;
  for (const ItemPair& pair : finding.pairs) found += finding.is_found(pair) ? 1U : 0U;
  result.notes.push_back(
      fmt::format("{} tested; {} of those listed {} more often together than chance would have it "
                  "(q <= 0.05).",
                  counted(finding.pairs_tested, "pair"), with_thousands(static_cast<std::int64_t>(found)),
                  found == 1 ? "is" : "are"));
}

result::Definitions definitions_of(const Finding& finding) {
  return {
      {"basket", fmt::format("the different {} of {}, returns left out", analysis::plural_of(finding.item),
                             mining::describe_baskets(finding.options.within))},
      {"support", "baskets with all of them, as a share of all baskets"},
      {"confidence_ab", "of the baskets with a, the share that hold b"},
      {"expected", "baskets with both if neither had to do with the other: a x b / all"},
      {"lift", "both by expected"},
      {"p_value", "Fisher's exact test, one-sided: so many or more together by chance"},
      {"q_value",
       fmt::format("Benjamini and Hochberg over {} tested", counted(finding.pairs_tested, "pair"))}};
}

/// Rows of pairs in another order, by columns of their table.
OrError<void> sort_pairs(result::Table& table, const std::vector<expression::SortKey>& keys) {
  std::vector<std::string> names;
  for (const result::TableColumn& column : table.columns) names.push_back(column.name);
  std::vector<std::pair<std::size_t, bool>> by;
  for (const expression::SortKey& key : keys) {
    const auto found = std::find(names.begin(), names.end(), snake_case(key.tree.text));
    if (found == names.end())
      return usage_error(fmt::format("--sort: there is no column {}.{}", in_quotes(key.tree.text),
                                     did_you_mean(key.tree.text, names)));
    by.emplace_back(static_cast<std::size_t>(found - names.begin()), key.descending);
  }
  if (!by.empty()) result::sort_rows(table, by);
  return {};
}

}  // namespace

OrError<result::Result> ask(const analysis::QuestionInput& asked, const Options& options) {
  const expression::LineView lines(asked.daybook, asked.grains);
  Finding finding{asked, options, {}, "product", {}, 1, {}, {}, 0, 0, {}, {}, false};
  PEAR_ASSIGN(std::tie(finding.key, finding.item), mining::basket_key(options.level, lines));
  finding.has_margins = asked.daybook.find("margin") != nullptr;
  finding.baskets = mining::gather_baskets(asked.daybook, finding.key, options.within);
  if (!options.product && finding.baskets.items.size() == finding.baskets.size())
    return data_error(fmt::format("none of the {} holds two different {}, so nothing is bought together.",
                                  counted(finding.baskets.size(), "basket"),
                                  analysis::plural_of(finding.item)));
  if (options.product) {
    PEAR_ASSIGN(finding.about, finding.names().find("product", *options.product));
  }
  PEAR_TRY(find_together(finding));

  result::Result result;
  result.question = "together";
  result.population = asked.population;
  result.definitions = definitions_of(finding);
  result.headline = headline_of(finding);
  result.tables = {pairs_table(finding), sets_table(finding), rules_table(finding), items_table(finding)};
  PEAR_TRY(sort_pairs(result.tables.front(), options.sort));
  result.figures = figures_of(finding);
  add_checks(finding, result);
  add_notes(finding, result);
  return result;
}

namespace {

analysis::OptionDeclaration<Options> ratio_option(analysis::OptionInfo info, double Options::*member,
                                                  double most) {
  auto set = [name = info.name, member, most](Options& options, std::string_view text) -> OrError<void> {
    const bool per_cent = text.ends_with('%');
    const auto value = Decimal::parse(per_cent ? text.substr(0, text.size() - 1) : text);
    const double ratio =
        value ? static_cast<double>(value->units()) / Decimal::kScale / (per_cent ? 100 : 1) : -1;
    if (!(ratio >= 0 && ratio <= most))
      return usage_error(
          fmt::format("--{} takes a number from 0 to {}, not {}.", name, most, in_quotes(text)));
    options.*member = ratio;
    return {};
  };
  return {std::move(info), std::move(set)};
}

analysis::OptionDeclarations<Options> together_options() {
  using Options = Options;
  return {
      mining::within_option<Options>(),
      analysis::tree_option<Options>(
          {"level", "COLUMN", "product_id", "what is bought together: any column of products"},
          &Options::level),
      analysis::text_option<Options>(
          {"product", "ID", "", "everything about one product's companions, by id or name"},
          &Options::product),
      mining::support_option("basket", "the least number of baskets that hold a pair or set",
                             &Options::support),
      ratio_option({"confidence", "SHARE", "0", "least share of one's baskets that hold the other"},
                   &Options::confidence, 1),
      ratio_option({"lift", "RATIO", "0", "least lift"}, &Options::lift, 1'000'000),
      analysis::whole_option<Options>({"size", "N", "3", "least size of the sets that are listed"},
                                      &Options::size, 2, 12),
      analysis::whole_option<Options>({"largest", "N", "5", "largest size of sets"}, &Options::largest, 2,
                                      12),
      analysis::word_option<Options>(
          {"only", "closed|maximal", "", "sets that no larger one is as common as, or contains"},
          &Options::only, {"all", "closed", "maximal"}),
      ratio_option({"min-gain", "SHARE", "0.05", "what a rule's confidence must add to its shorter forms"},
                   &Options::min_gain, 1),
      analysis::whole_option<Options>({"at-most", "N", "1000000", "sets that may reach the support"},
                                      &Options::at_most, 1, 1'000'000'000),
      {{"sort", "COLUMN [desc],...", "both desc", "the order of pairs"},
       [](Options& options, std::string_view text) -> OrError<void> {
         auto keys = expression::parse_sort(text);
         if (!keys) return analysis::in_option("sort", keys.error());
         options.sort = std::move(*keys);
         return {};
       }}};
}

}  // namespace

analysis::Question question() {
  return {"together",
          "what is bought together: pairs, larger sets, and rules",
          "Counts the baskets that hold two or more products, beside what chance would give, with a test of "
          "each\n"
          "pair that allows for how many were tested. Every combination once; returns never count.",
          {"pear-thread together shop.daybook", "pear-thread together --within \"14 days\" --level category",
           "pear-thread together --product P43",
           "pear-thread together --support 1% --only closed --sort \"lift desc\""},
          analysis::infos(together_options()),
          [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
            PEAR_ASSIGN(const Options options, analysis::read_options(together_options(), values));
            if (options.size > options.largest)
              return usage_error(
                  fmt::format("--size {} is more than --largest {}.", options.size, options.largest));
            analysis::PreparedQuestion prepared = mining::prepared_for_baskets(options.level);
            prepared.ask = [options](const analysis::QuestionInput& asked) { return ask(asked, options); };
            return prepared;
          }};
}

}  // namespace pear::together
