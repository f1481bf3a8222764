// Frequent sets: compared with every subset of every basket.
#include "mining/frequent_itemsets.hpp"

#include <algorithm>
#include <map>
#include <set>
#include <vector>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <tbb/global_control.h>

#include "support/random_shop.hpp"

namespace pear::test {
namespace {

using Codes = std::vector<std::uint32_t>;

/// Few customers with several baskets each; the first items are in most baskets.
mining::Baskets random_baskets(int items) {
  mining::Baskets baskets;
  baskets.counts.resize(static_cast<std::size_t>(items));
  baskets.single_item.resize(baskets.counts.size());
  const int number = pick(0, 40);
  std::uint32_t customer = 0;
  for (int basket = 0; basket < number; ++basket) {
    std::set<std::uint32_t> set;
    for (int i = pick(1, 6); i > 0; --i)
      set.insert(static_cast<std::uint32_t>(std::min(pick(0, items - 1), pick(0, items - 1))));
    baskets.items.insert(baskets.items.end(), set.begin(), set.end());
    baskets.begins.push_back(static_cast<std::uint32_t>(baskets.items.size()));
    baskets.customers.push_back(customer);
    baskets.days.push_back(basket);
    for (const std::uint32_t item : set) ++baskets.counts[item];
    customer += pick(0, 2) == 0 ? 1U : 0U;
  }
  return baskets;
}

/// By set of items, the baskets of each customer that contain all of them.
using Slow = std::map<Codes, std::map<std::uint32_t, std::uint64_t>>;

Slow all_subsets(const mining::Baskets& baskets, std::size_t largest) {
  Slow all;
  for (std::size_t basket = 0; basket < baskets.size(); ++basket) {
    const auto items = baskets.of(basket);
    for (unsigned bits = 1; bits < 1U << items.size(); ++bits) {
      Codes codes;
      for (std::size_t i = 0; i < items.size(); ++i)
        if ((bits >> i & 1U) != 0) codes.push_back(items[i]);
      if (codes.size() <= largest) ++all[codes][baskets.customers[basket]];
    }
  }
  return all;
}

std::uint64_t sum_of(const std::map<std::uint32_t, std::uint64_t>& baskets, bool of_squares) {
  std::uint64_t sum = 0;
  for (const auto& [customer, count] : baskets) sum += of_squares ? count * count : count;
  return sum;
}

bool comes_before(const Codes& a, const Codes& b) {
  return a.size() != b.size() ? a.size() < b.size() : a < b;
}

RC_GTEST_PROP(FrequentItemsets, AreTheSubsetsOfEnoughBaskets, ()) {
  const mining::Baskets baskets = random_baskets(pick(1, 9));
  mining::MiningBounds bounds;
  bounds.least = static_cast<std::uint32_t>(pick(1, 6));
  bounds.largest = static_cast<std::size_t>(pick(1, 5));
  const tbb::global_control threads(tbb::global_control::max_allowed_parallelism,
                                    static_cast<std::size_t>(pick(1, 4)));
  std::map<Codes, std::map<std::uint32_t, std::uint64_t>> wanted, rare;
  std::size_t of_several = 0;
  for (const auto& [codes, own] : all_subsets(baskets, std::max<std::size_t>(2, bounds.largest))) {
    const bool is_frequent = sum_of(own, false) >= bounds.least;
    const bool has_frequent_items = std::all_of(
        codes.begin(), codes.end(), [&](std::uint32_t code) { return baskets.counts[code] >= bounds.least; });
    if (is_frequent && codes.size() <= bounds.largest) {
      wanted[codes] = own;
      of_several += codes.size() > 1 ? 1U : 0U;
    }
    if (!is_frequent && codes.size() == 2 && has_frequent_items) rare[codes] = own;
  }
  mining::ItemSets rare_pairs;
  const auto mined = mining::mine_sets(baskets, bounds, {}, &rare_pairs);
  RC_ASSERT(mined.has_value());
  RC_ASSERT(mined->size() == wanted.size());
  const mining::SetIndex index(*mined);
  Codes before;
  for (std::size_t set = 0; set < mined->size(); ++set) {
    const Codes codes(mined->codes(set).begin(), mined->codes(set).end());
    RC_ASSERT(before.empty() || comes_before(before, codes));
    const auto& own = wanted.at(codes);
    RC_ASSERT(mined->baskets(set) == sum_of(own, false));
    if (codes.size() > 1) RC_ASSERT(mined->squares(set) == sum_of(own, true));
    RC_ASSERT(index.find(codes) == set);
    before = codes;
  }
  RC_ASSERT(!index.find(Codes{97, 98}));
  if (bounds.largest > 1) {
    RC_ASSERT(rare_pairs.size() == rare.size());
    for (std::size_t pair = 0; pair < rare_pairs.size(); ++pair) {
      const Codes codes(rare_pairs.codes(pair).begin(), rare_pairs.codes(pair).end());
      RC_ASSERT(rare_pairs.baskets(pair) == sum_of(rare.at(codes), false));
    }
  }
  if (of_several == 0) return;
  bounds.at_most = of_several;
  RC_ASSERT(mining::mine_sets(baskets, bounds).has_value());
  bounds.at_most = of_several - 1;
  RC_ASSERT(!mining::mine_sets(baskets, bounds).has_value());
  const std::uint32_t fits = mining::support_that_fits(baskets, bounds);
  RC_ASSERT(fits > bounds.least && fits % bounds.least == 0);
  bounds.least = fits;
  RC_ASSERT(mining::mine_sets(baskets, bounds).has_value());
  bounds.least = fits / 2;
  RC_ASSERT(!mining::mine_sets(baskets, bounds).has_value());
}

RC_GTEST_PROP(FrequentItemsets, AreClosedOrMaximalByDefinition, ()) {
  const mining::Baskets baskets = random_baskets(pick(2, 7));
  mining::MiningBounds bounds;
  bounds.least = static_cast<std::uint32_t>(pick(1, 4));
  bounds.largest = 6;  // no basket is larger
  const mining::ItemSets sets = *mining::mine_sets(baskets, bounds);
  const auto closed = mining::kept_sets(sets, mining::OnlySets::closed);
  const auto maximal = mining::kept_sets(sets, mining::OnlySets::maximal);
  const auto all = mining::kept_sets(sets, mining::OnlySets::all);
  RC_ASSERT(all == std::vector<std::uint8_t>(sets.size(), 1));
  for (std::size_t set = 0; set < sets.size(); ++set) {
    bool is_closed = true, is_maximal = true;
    for (std::size_t other = 0; other < sets.size(); ++other) {
      const auto a = sets.codes(set), b = sets.codes(other);
      if (b.size() <= a.size() || !std::includes(b.begin(), b.end(), a.begin(), a.end())) continue;
      is_maximal = false;
      is_closed = is_closed && sets.baskets(other) < sets.baskets(set);
    }
    RC_ASSERT((closed[set] == 1) == is_closed);
    RC_ASSERT((maximal[set] == 1) == is_maximal);
  }
}

}  // namespace
}  // namespace pear::test
