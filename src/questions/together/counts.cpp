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

/// 1 in 1,000 baskets, but at least 5; doubled while more than 20,000 pairs reach it.
OrError<std::uint32_t> least_baskets(const Counts& counts) {
  if (counts.options.support) return counts.options.support->of(counts.baskets.size());
  constexpr std::uint32_t kFewest = 5;
  constexpr std::size_t kMostPairs = 20'000;
  const auto least = static_cast<std::uint32_t>(std::ceil(counts.size() / 1000));
  return mining::support_that_fits(counts.baskets, {std::max(kFewest, least), 2, kMostPairs});
}

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

/// Mines into the counts: pairs with their tests, sets, rules. Error: usage, if there are too many.
OrError<void> find_together(Counts& counts) {
  PEAR_ASSIGN(counts.least, least_baskets(counts));
  const auto largest = static_cast<std::size_t>(counts.options.largest);
  const bool only_some = counts.options.only != mining::OnlySets::all;
  const mining::MiningBounds bounds{counts.least, largest + (only_some ? 1 : 0),
                                    static_cast<std::size_t>(counts.options.at_most)};
  mining::ItemSets rare;
  const auto mined = mining::mine_sets(counts.baskets, bounds, counts.input.progress, &rare);
  if (!mined) {
    const std::uint32_t fits = mining::support_that_fits(counts.baskets, bounds);
    return usage_error(
        fmt::format("more than {} sets reach a support of {}, more than --at-most allows. Use --support \"{} "
                    "baskets\", or a smaller --largest.",
                    with_thousands(counts.options.at_most), counted(counts.least, "basket"), fits));
  }
  const bool is_history = counts.options.within.within == mining::BasketRule::Within::customer;
  const mining::AssociationTests tests(counts.baskets, !is_history);
  counts.period = tests.model().period();
  find_pairs(counts, tests, *mined, rare);
  std::vector<mining::Association> tested = mining::test_sets(tests, *mined);
  choose_sets(counts, *mined, tested);
  find_rules(counts, *mined, tested);
  return {};
}

}  // namespace

std::uint64_t Counts::items_of_sets(std::uint32_t least_baskets) const {
  return static_cast<std::uint64_t>(
      std::count_if(baskets.counts.begin(), baskets.counts.end(),
                    [&](std::uint32_t count) { return count >= least_baskets; }));
}

std::uint64_t Counts::sets_that_could_be(std::size_t items) const {
  const std::uint64_t frequent = items_of_sets(least);
  return about ? mining::combinations(frequent - 1, items - 1) : mining::combinations(frequent, items);
}

OrError<Counts> count(const analysis::QuestionInput& input, const Options& options) {
  const expression::LineView lines(input.daybook, input.grains);
  PEAR_ASSIGN(auto key, mining::basket_key(options.items, lines));
  Counts counts{input, options, std::move(key.first), std::move(key.second), {}, 1, {}, {}, {}, 0, 0, {}, {},
                {},    false};
  counts.has_margins = !daybook::known_margins(input.daybook).empty();
  counts.baskets = mining::gather_baskets(input.daybook, counts.key, options.within);
  if (!options.product && counts.baskets.items.size() == counts.baskets.size())
    return data_error(fmt::format("none of the {} contains two distinct {}, so nothing is bought together.",
                                  counted(counts.baskets.size(), "basket"),
                                  analysis::plural_of(counts.item)));
  if (options.product) {
    PEAR_ASSIGN(counts.about, counts.names().find("product", *options.product));
  }
  PEAR_TRY(find_together(counts));
  return counts;
}

}  // namespace pear::together
