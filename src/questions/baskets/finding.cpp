#include "questions/baskets/finding.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::baskets {
namespace {

std::string money(const Counts& counts, std::int64_t units) {
  return analysis::rounded_money_text(units, counts.input.currency);
}

std::int64_t in_units(double units) { return std::llround(units); }

/// The size that at least half of the baskets do not exceed.
std::size_t median_size(const BasketValues& facts) {
  std::uint64_t so_far = 0;
  std::size_t size = 0;
  while (2 * so_far < facts.baskets) so_far += facts.by_size[++size];
  return size;
}

std::string discount_sentence(const Counts& counts) {
  const std::vector<std::uint32_t> codes = candidates(counts);
  if (!counts.options.discount || codes.empty()) return "";
  const PulledBaskets& item = counts.facts.items[codes.front()];
  const Discount discount(item, *counts.options.discount);
  if (!discount.baskets) return "";
  const auto more = static_cast<std::uint64_t>(*discount.baskets);
  return fmt::format("A {}% discount on it pays for itself if it brings {}, in addition to the {} (+{}).",
                     Decimal::from_units(*counts.options.discount).to_text(), counted(more, "more basket"),
                     analysis::number(item.own.baskets), analysis::per_cent(more, item.own.baskets));
}

}  // namespace

std::vector<std::uint32_t> candidates(const Counts& counts) {
  std::vector<std::uint32_t> codes;
  for (std::uint32_t code = 0; code < counts.facts.items.size(); ++code)
    if (counts.is_candidate(code)) codes.push_back(code);
  const auto& items = counts.facts.items;
  const auto rate = [&](std::uint32_t code) { return items[code].own.margin_rate(); };
  std::stable_sort(codes.begin(), codes.end(), [&](std::uint32_t a, std::uint32_t b) {
    return counts.facts.has_costs ? rate(a) < rate(b) : items[a].pull->pull > items[b].pull->pull;
  });
  return codes;
}

std::string sizes_sentence(const Counts& counts) {
  const BasketValues& facts = counts.facts;
  return fmt::format("{} of {} baskets ({}) contain only one {}; half contain {} or fewer.",
                     analysis::number(facts.by_size[1]), analysis::number(facts.baskets),
                     analysis::per_cent(facts.by_size[1], facts.baskets), counts.item, median_size(facts));
}

std::string pull_sentence(const Counts& counts) {
  const std::vector<std::uint32_t> codes = candidates(counts);
  if (codes.empty()) return "";
  const PulledBaskets& best = counts.facts.items[codes.front()];
  const std::string own = money(counts, best.own_value.mean(best.own.baskets).value_or(Decimal()).units());
  return fmt::format(
      "{} earns {} {} per basket itself. The other {} in its baskets earn {} more than as many in similar "
      "baskets (95% interval {} to {}).",
      counts.title(codes.front()), own, counts.value(), analysis::plural_of(counts.item),
      money(counts, in_units(best.pull->pull)),
      with_thousands(Decimal::from_units(in_units(best.pull->low)), 2),
      with_thousands(Decimal::from_units(in_units(best.pull->high)), 2));
}

std::vector<std::string> headline_of(const Counts& counts) {
  std::vector<std::string> headline = {sizes_sentence(counts)};
  for (std::string sentence : {pull_sentence(counts), discount_sentence(counts)})
    if (!sentence.empty()) headline.push_back(std::move(sentence));
  return headline;
}

std::vector<result::Stake> stakes_of(const Counts& counts) {
  const std::vector<std::uint32_t> codes = candidates(counts);
  if (codes.empty()) return {};
  const PulledBaskets& best = counts.facts.items[codes.front()];
  const double units = static_cast<double>(in_units(best.pull->pull)) * static_cast<double>(best.own.baskets);
  if (units < 1) return {};
  return {{1, std::llround(units)}};
}

result::Definitions definitions_of(const Counts& counts) {
  result::Definitions definitions = {
      {"basket", fmt::format("the distinct {} of {}, without returns", analysis::plural_of(counts.item),
                             mining::describe_baskets(counts.options.within))}};
  if (counts.facts.has_pulls) {
    const result::Definitions of_pull = {
        {"pull",
         fmt::format("{0} of the other {1} in its baskets, minus that of as many {1} in other baskets of "
                     "the same customers, adjusted for size and month; customers with it in all their "
                     "baskets are compared with other customers' baskets of the same size",
                     counts.value(), analysis::plural_of(counts.item))},
        {"pull_low, pull_high", "95% interval, with customers as clusters"},
        {"q_value",
         fmt::format("of the score test that pull is above 0, with customers as clusters, over all {} "
                     "with at least {} baskets (Benjamini and Hochberg)",
                     analysis::plural_of(counts.item), counts.options.at_least)}};
    definitions.insert(definitions.end(), of_pull.begin(), of_pull.end());
  }
  if (counts.options.discount)
    definitions.emplace_back("more_baskets",
                             "baskets x d / (basket margin - d), where d is the discount per basket: the "
                             "number of baskets that earn back the discount");
  return definitions;
}

void add_notes(const Counts& counts, result::Result& result) {
  if (!counts.facts.has_costs)
    result.notes.emplace_back("The daybook has no costs, so sales are used instead of margins.");
  if (counts.facts.lines_without_cost > 0)
    result.notes.push_back(fmt::format("{} without a cost: their margin is unknown and not counted.",
                                       counted(counts.facts.lines_without_cost, "line is", "lines are")));
}

void add_checks(const Counts& counts, result::Result& result) {
  const BasketValues& facts = counts.facts;
  std::uint64_t of_compositions = 0, single_item = 0;
  DecimalSum composition_sales, item_sales;
  for (const Composition& each : facts.compositions) {
    of_compositions += each.sum.baskets;
    composition_sales.add(each.sum.sales);
  }
  for (const PulledBaskets& each : facts.items) {
    single_item += each.single_item;
    item_sales.add(each.own.sales);
  }
  result.checks.push_back({fmt::format("baskets of all compositions add up to {}",
                                       with_thousands(static_cast<std::int64_t>(facts.baskets))),
                           of_compositions == facts.baskets && single_item == facts.by_size[1]});
  const auto total = composition_sales.total();
  result.checks.push_back({fmt::format("sales of all compositions, {}, equal those of all {}",
                                       total ? with_thousands(*total) : "", analysis::plural_of(counts.item)),
                           composition_sales == item_sales});
}

}  // namespace pear::baskets
