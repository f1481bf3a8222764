#include "questions/together/counts.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "daybook/columns/derived_columns.hpp"
#include "mining/association.hpp"
#include "questions/together/item_pairs.hpp"
#include "questions/together/item_rules.hpp"

namespace pear::together {
namespace {

/// The sets to list: the significant ones first, then the most frequent.
void choose_sets(Counts& counts, const mining::ItemSets& mined, std::vector<mining::Association>& tested) {
  const std::vector<std::uint8_t> kept = mining::kept_sets(mined, counts.options.only);
  const auto smallest = static_cast<std::size_t>(counts.options.size);
  const auto largest = static_cast<std::size_t>(counts.options.largest);
  const auto is_about = [&](std::size_t set) {
    const auto codes = mined.codes(set);
    return !counts.about || std::binary_search(codes.begin(), codes.end(), *counts.about);
  };
  std::vector<std::uint32_t> chosen;
  for (std::size_t size = smallest; size <= largest; ++size) {
    std::vector<mining::Association*> of_size;
    for (std::uint32_t set = 0; set < mined.size(); ++set) {
      if (mined.codes(set).size() != size || !is_about(set)) continue;
      of_size.push_back(&tested[set]);
      if (kept[set] != 0 && mined.baskets(set) >= counts.options.lift * tested[set].expected)
        chosen.push_back(set);
    }
    mining::control_false_discoveries(of_size, counts.sets_that_could_be(size));
  }
  const auto rank = [&](std::uint32_t set) {
    const bool is_found =
        tested[set].q <= statistics::kFalseDiscovery && mined.baskets(set) > tested[set].expected;
    return std::pair(is_found, mined.baskets(set));
  };
  std::stable_sort(chosen.begin(), chosen.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return rank(a) > rank(b); });
  for (const std::uint32_t set : chosen) {
    counts.sets.add(mined.codes(set), mined.baskets(set), mined.squares(set));
    counts.set_tests.push_back(tested[set]);
  }
}

BasketTotals totals_of(const mining::Baskets& baskets) {
  BasketTotals totals{baskets.size(), 0, 0, baskets.counts, baskets.single_item};
  for (std::size_t basket = 0; basket < baskets.size(); ++basket) {
    totals.items += baskets.of(basket).size();
    totals.single += baskets.of(basket).size() == 1 ? 1U : 0U;
  }
  return totals;
}

/// Sets the support, and mines. Error: usage, if there are too many sets.
OrError<MinedSets> mine(Counts& counts, const mining::Baskets& baskets) {
  const Options& options = counts.options;
  counts.least = options.support ? options.support->of(baskets.size())
                                 : mining::support_that_fits(baskets, {usual_support(counts), 2, kMostPairs});
  const auto largest = static_cast<std::size_t>(options.largest);
  const bool only_some = options.only != mining::OnlySets::all;
  const mining::MiningBounds bounds{counts.least, largest + (only_some ? 1 : 0),
                                    static_cast<std::size_t>(options.at_most)};
  MinedSets sets;
  auto mined = mining::mine_sets(baskets, bounds, counts.input.progress, &sets.rare);
  if (!mined) return tl::unexpected(too_many_sets(counts, mining::support_that_fits(baskets, bounds)));
  sets.frequent = std::move(*mined);
  if (counts.about) sets.companions = companions_of(baskets, *counts.about);
  return sets;
}

}  // namespace

tl::unexpected<Error> in_no_basket(const std::string& item, const BasketTotals& baskets) {
  return usage_error(
      fmt::format("--product: none of the {} contains {}.", counted(baskets.size(), "basket"), item));
}

std::uint32_t usual_support(const Counts& counts) {
  constexpr std::uint32_t kFewest = 5;
  return std::max(kFewest, static_cast<std::uint32_t>(std::ceil(counts.size() / 1000)));
}

Error too_many_sets(const Counts& counts, std::uint32_t fits) {
  return Error{
      ErrorKind::usage,
      fmt::format("more than {} sets reach a support of {}, more than --at-most allows. Use --support "
                  "\"{} baskets\", or a smaller --largest.",
                  with_thousands(counts.options.at_most), counted(counts.least, "basket"), fits)};
}

OrError<void> find_together(Counts& counts, const MinedSets& mined, const mining::AssociationTests& tests,
                            const AddAmounts& add_amounts) {
  counts.period = tests.model().period();
  find_pairs(counts, tests, mined);
  PEAR_TRY(add_amounts(counts.pairs));
  std::vector<mining::Association> tested = mining::test_sets(tests, mined.frequent);
  choose_sets(counts, mined.frequent, tested);
  find_rules(counts, mined.frequent, tested);
  return {};
}

std::uint64_t Counts::items_of_sets(std::uint32_t least_baskets) const {
  return static_cast<std::uint64_t>(
      std::count_if(baskets.counts.begin(), baskets.counts.end(),
                    [&](std::uint32_t count) { return count >= least_baskets; }));
}

std::uint64_t Counts::sets_that_could_be(std::size_t items) const {
  const std::uint64_t frequent = items_of_sets(least);
  return about ? mining::combinations(frequent - 1, items - 1) : mining::combinations(frequent, items);
}

OrError<Counts> of_baskets(const analysis::QuestionInput& input, const Options& options,
                           std::pair<expression::GroupKey, std::string> items, BasketTotals baskets) {
  Counts counts{input,
                options,
                std::move(items.first),
                std::move(items.second),
                std::move(baskets),
                1,
                {},
                {},
                {},
                0,
                0,
                {},
                {},
                {},
                false};
  if (!options.product && counts.baskets.items == counts.baskets.size())
    return data_error(fmt::format("none of the {} contains two distinct {}, so nothing is bought together.",
                                  counted(counts.baskets.size(), "basket"),
                                  analysis::plural_of(counts.item)));
  if (options.product) {
    PEAR_ASSIGN(counts.about, counts.names().find("product", *options.product));
    if (counts.count(*counts.about) == 0) return in_no_basket(counts.title(*counts.about), counts.baskets);
  }
  return counts;
}

OrError<Counts> count(const analysis::QuestionInput& input, const Options& options) {
  const expression::LineView lines(input.daybook, input.grains);
  PEAR_ASSIGN(auto key, mining::basket_key(options.items, lines));
  const mining::Baskets baskets = mining::gather_baskets(input.daybook, key.first, options.within);
  PEAR_ASSIGN(Counts counts, of_baskets(input, options, std::move(key), totals_of(baskets)));
  counts.has_margins = !daybook::known_margins(input.daybook).empty();
  PEAR_ASSIGN(const MinedSets mined, mine(counts, baskets));
  const bool is_history = options.within.within == mining::BasketRule::Within::customer;
  const mining::AssociationTests tests(baskets, !is_history);
  PEAR_TRY(find_together(counts, mined, tests, [&](std::vector<ItemPair>& pairs) -> OrError<void> {
    add_amounts(counts, pairs);
    return {};
  }));
  return counts;
}

}  // namespace pear::together
