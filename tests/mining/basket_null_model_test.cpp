// The null model of baskets, compared with all possible baskets and with shuffled ones.
#include "mining/basket_null_model.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <map>
#include <random>
#include <set>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "mining/association.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

using mining::Baskets;

Baskets baskets_of(const std::vector<std::set<std::uint32_t>>& sets, std::uint32_t items,
                   const std::vector<std::int32_t>& days = {}) {
  Baskets baskets;
  baskets.counts.resize(items);
  baskets.single_item.resize(items);
  for (std::uint32_t basket = 0; basket < sets.size(); ++basket) {
    baskets.items.insert(baskets.items.end(), sets[basket].begin(), sets[basket].end());
    baskets.begins.push_back(static_cast<std::uint32_t>(baskets.items.size()));
    baskets.customers.push_back(basket);
    baskets.days.push_back(days.empty() ? 0 : days[basket]);
    for (const std::uint32_t item : sets[basket]) ++baskets.counts[item];
  }
  return baskets;
}

/// 0, 1, ..., n - 1
std::uint32_t below(std::mt19937& random, std::uint32_t n) {
  return static_cast<std::uint32_t>(random() % n);
}

/// Between `fewest` and `most` different items in each of `number` baskets; the first items are popular.
std::vector<std::set<std::uint32_t>> random_sets(int number, int items, int fewest, int most) {
  std::vector<std::set<std::uint32_t>> sets(static_cast<std::size_t>(number));
  for (auto& set : sets) {
    const auto size = static_cast<std::size_t>(pick(fewest, most));
    while (set.size() < size)
      set.insert(static_cast<std::uint32_t>(std::min(pick(0, items - 1), pick(0, items - 1))));
  }
  return sets;
}

/// The model by its definition: the probability of each possible basket of a size, one by one.
class SlowModel {
 public:
  explicit SlowModel(const Baskets& baskets) : items_(baskets.counts.size()), weights_(items_, 1) {
    for (std::size_t basket = 0; basket < baskets.size(); ++basket)
      ++sizes_[static_cast<int>(baskets.of(basket).size())];
    constexpr int kRounds = 150;
    for (int round = 0; round < kRounds; ++round)
      for (std::size_t item = 0; item < items_; ++item)
        if (baskets.counts[item] > 0) weights_[item] *= baskets.counts[item] / expected(1U << item);
    for (std::size_t item = 0; item < items_; ++item)
      if (baskets.counts[item] == 0) weights_[item] = 0;
  }

  /// Baskets with all items of a set of bits.
  [[nodiscard]] double expected(unsigned wanted) const {
    std::map<int, double> all, with;
    for (unsigned set = 1; set < 1U << items_; ++set) {
      double product = 1;
      for (std::size_t item = 0; item < items_; ++item)
        if ((set >> item & 1U) != 0) product *= weights_[item];
      all[std::popcount(set)] += product;
      if ((set & wanted) == wanted) with[std::popcount(set)] += product;
    }
    double sum = 0;
    for (const auto& [size, number] : sizes_) sum += number * with[size] / all[size];
    return sum;
  }

 private:
  std::size_t items_;
  std::vector<double> weights_;
  std::map<int, double> sizes_;
};

TEST(BasketNullModel, EqualsTheProbabilitiesOfAllPossibleBaskets) {
  std::mt19937 random(3);
  for (int shop = 0; shop < 3; ++shop) {
    std::vector<std::set<std::uint32_t>> sets;
    constexpr std::uint32_t kItems = 9;
    for (int basket = 0; basket < 60; ++basket) {
      std::set<std::uint32_t> set;
      const std::size_t size = 1 + random() % 3;  // exact up to a third of the items
      while (set.size() < size) set.insert(below(random, 3) == 0 ? below(random, 3) : below(random, kItems));
      sets.push_back(set);
    }
    const Baskets baskets = baskets_of(sets, kItems);
    const mining::BasketNullModel model(baskets, false);
    const SlowModel slow(baskets);
    for (const std::vector<std::uint32_t>& codes :
         {std::vector<std::uint32_t>{0, 1}, {1, 5}, {3, 4}, {0, 1, 2}, {2, 3, 6}}) {
      unsigned bits = 0;
      for (const std::uint32_t code : codes) bits |= 1U << code;
      EXPECT_NEAR(model.expected(codes), slow.expected(bits), 1e-4);
    }
  }
}

/// For any shop: the expected pairs of all items add up to those in baskets of these sizes, and each item is
/// expected as often as it occurs.
RC_GTEST_PROP(BasketNullModel, KeepsBothMargins, ()) {
  const int items = pick(3, 40);
  auto sets = random_sets(pick(1, 80), items, 1, pick(1, items / 2 + 1));
  if (pick(0, 3) == 0) {  // a basket of everything
    sets.emplace_back();
    for (std::uint32_t item = 0; item < static_cast<std::uint32_t>(items); ++item) sets.back().insert(item);
  }
  const Baskets baskets = baskets_of(sets, static_cast<std::uint32_t>(items));
  const mining::BasketNullModel model(baskets, false);
  double singles = 0, pairs = 0, wanted = 0;
  for (const auto& set : sets) wanted += static_cast<double>(set.size() * (set.size() - 1)) / 2;
  for (std::uint32_t a = 0; a < static_cast<std::uint32_t>(items); ++a) {
    if (baskets.counts[a] == 0) continue;
    singles += model.expected(std::vector{a});
    for (std::uint32_t b = 0; b < a; ++b) pairs += model.expected(std::vector{b, a});
  }
  RC_ASSERT(std::abs(singles - static_cast<double>(baskets.items.size())) <
            0.01 * static_cast<double>(baskets.items.size()));
  RC_ASSERT(std::abs(pairs - wanted) <= 0.03 * wanted + 1e-9);
}

/// Exchanges two items between two baskets, where both remain sets: all tables with the same margins can be
/// reached (Gionis, Mannila, Mielikainen and Tsaparas, Assessing data mining results via swap randomization,
/// ACM TKDD 1, 2007).
void swap_items(std::vector<std::set<std::uint32_t>>& sets, std::mt19937& random) {
  auto &a = sets[random() % sets.size()], &b = sets[random() % sets.size()];
  const std::uint32_t x = *std::next(a.begin(), static_cast<int>(random() % a.size())),
                      y = *std::next(b.begin(), static_cast<int>(random() % b.size()));
  if (a.contains(y) || b.contains(x)) return;
  a.erase(x), b.erase(y);
  a.insert(y), b.insert(x);
}

TEST(BasketNullModel, ExpectsWhatShuffledBasketsContain) {
  std::mt19937 random(5);
  constexpr std::uint32_t kItems = 24;
  std::vector<std::set<std::uint32_t>> sets;
  for (int basket = 0; basket < 150; ++basket) {
    std::set<std::uint32_t> set;
    const std::size_t size = basket % 10 == 0 ? 9 + random() % 8 : 1 + random() % 4;  // some are large
    while (set.size() < size) set.insert(below(random, 3) == 0 ? below(random, 3) : below(random, kItems));
    sets.push_back(set);
  }
  const mining::BasketNullModel model(baskets_of(sets, kItems), false);
  const std::vector<std::vector<std::uint32_t>> wanted = {{0, 1},    {0, 7},      {8, 9},
                                                          {0, 1, 2}, {1, 10, 11}, {5, 6, 7}};
  std::vector<double> sums(wanted.size(), 0);
  constexpr int kShuffles = 1'000;
  for (int shuffle = -10; shuffle < kShuffles; ++shuffle) {
    for (int swap = 0; swap < 500; ++swap) swap_items(sets, random);
    if (shuffle < 0) continue;  // until the order of the start is forgotten
    for (std::size_t i = 0; i < wanted.size(); ++i)
      sums[i] += static_cast<double>(std::count_if(sets.begin(), sets.end(), [&](const auto& set) {
        return std::includes(set.begin(), set.end(), wanted[i].begin(), wanted[i].end());
      }));
  }
  for (std::size_t i = 0; i < wanted.size(); ++i)
    EXPECT_NEAR(model.expected(wanted[i]) / (sums[i] / kShuffles), 1, 0.04) << i;
}

/// Two products that are sold only in the second half of the year.
TEST(BasketNullModel, ComparesOnlyBasketsOfTheSameTime) {
  std::vector<std::set<std::uint32_t>> sets;
  std::vector<std::int32_t> days;
  for (int basket = 0; basket < 2'400; ++basket) {
    const int month = basket / 200;
    std::set<std::uint32_t> set;
    if (month >= 6 && basket % 2 == 0) set.insert(0);
    if (month >= 6 && basket % 4 < 2) set.insert(1);
    for (std::uint32_t other = 0; set.size() < 3; ++other)
      set.insert(2 + (static_cast<std::uint32_t>(basket) + other) % 8);
    sets.push_back(set);
    days.push_back(19'723 + 30 * month);  // 2024
  }
  const Baskets baskets = baskets_of(sets, 10, days);
  const std::vector<std::uint32_t> pair = {0, 1};
  const mining::BasketNullModel of_months(baskets, true), of_all(baskets, false);
  EXPECT_EQ(of_months.period(), "month");
  EXPECT_EQ(of_all.period(), "");
  EXPECT_GT(of_months.expected(pair), 1.5 * of_all.expected(pair));
}

TEST(Association, CountsCustomersAndNotOnlyBaskets) {
  const mining::AssociationTests::Rule of_many{20, 100, 100, 20, 10, 100}, of_one{20, 100, 100, 400, 10, 100};
  EXPECT_LT(mining::AssociationTests::of_rule(of_many).p, 0.002);
  EXPECT_GT(mining::AssociationTests::of_rule(of_one).p, 0.2);
  EXPECT_EQ(mining::combinations(5, 2), 10U);
  EXPECT_EQ(mining::combinations(2, 3), 0U);
}

}  // namespace
}  // namespace pear::test
