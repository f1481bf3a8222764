// What customers like: compared with slow twins, and recovered from simulated purchases.
#include "recommender/taste/taste.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <random>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <tbb/global_control.h>

#include "recommender/parallel_counting.hpp"
#include "recommender/rates/repurchase_rates.hpp"
#include "recommender/taste/shared_buyers.hpp"
#include "support/history_maker.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// Customers buy eight times among 20 products, mostly among the ten of their own kind.
mining::Histories two_kinds(int customers, int per_cent_own) {
  std::mt19937 random(5);
  HistoryMaker maker(20);
  for (int customer = 0; customer < customers; ++customer) {
    for (int order = 0; order < 8; ++order) {
      const auto own = static_cast<unsigned>(customer % 2);
      const unsigned kind = random() % 100 < static_cast<unsigned>(per_cent_own) ? own : random() % 2;
      maker.order(order * 30, {static_cast<std::uint32_t>(kind * 10 + random() % 10)});
    }
    maker.end_customer();
  }
  return maker.histories();
}

TEST(LatentClasses, FindTwoKindsOfCustomers) {
  const mining::Histories histories = two_kinds(2'000, 90);
  const auto classes = recommender::LatentClasses::fit(histories, one_group(histories.customers()));
  ASSERT_EQ(classes.count(), 2U);
  std::vector<double> of_first(2), of_second(2);
  classes.classify(0, std::vector<std::uint32_t>{0, 3, 7}, of_first);
  classes.classify(0, std::vector<std::uint32_t>{10, 13, 17}, of_second);
  const std::size_t own = of_first[0] > of_first[1] ? 0 : 1;
  EXPECT_GT(of_first[own], 0.95);
  EXPECT_GT(of_second[1 - own], 0.95);
  for (std::uint32_t product = 0; product < 20; ++product) {
    const double wanted = product < 10 ? 0.095 : 0.005;
    EXPECT_NEAR(classes.share(own, product), wanted, 0.015) << product;
    EXPECT_NEAR(classes.share_of(of_first, product), wanted, 0.02) << product;
  }
}

TEST(LatentClasses, FindNoneAmongAlikeCustomers) {
  const mining::Histories histories = two_kinds(2'000, 0);
  EXPECT_EQ(recommender::LatentClasses::fit(histories, one_group(histories.customers())).count(), 1U);
}

/// Each product's weights solve the normal equations of a ridge regression on the other products.
RC_GTEST_PROP(ItemWeights, SolveTheRidgeRegression, ()) {
  constexpr double kPenalty = 100;
  const int products = pick(2, 6);
  const mining::Histories histories = random_purchases(pick(1, 40), products, 300);
  const auto items = recommender::ItemWeights::fit(histories);
  const auto size = static_cast<std::size_t>(products);
  std::vector<std::vector<double>> both(size, std::vector<double>(size)), weights = both;
  for (std::uint32_t customer = 0; customer < histories.customers(); ++customer) {
    std::set<std::uint32_t> bought;
    for (const mining::HistoryEntry& entry : histories.of(customer)) bought.insert(entry.code);
    for (const std::uint32_t a : bought)
      for (const std::uint32_t b : bought) ++both[a][b];
  }
  for (std::uint32_t a = 0; a < size; ++a)
    for (const recommender::ItemWeights::Weight& weight : items.from(a))
      weights[a][weight.product] = static_cast<double>(weight.weight);
  for (std::size_t later = 0; later < size; ++later) {
    RC_ASSERT(weights[later][later] == 0);
    for (std::size_t a = 0; a < size; ++a) {
      if (a == later) continue;
      double sum = kPenalty * weights[a][later] - both[a][later];
      for (std::size_t other = 0; other < size; ++other) sum += both[a][other] * weights[other][later];
      RC_ASSERT(std::abs(sum) < 1e-3);
    }
  }
}

RC_GTEST_PROP(SharedBuyers, CountsCustomersOfBothProducts, ()) {
  const mining::Histories histories = random_purchases(pick(1, 20), pick(1, 12), 300);
  const recommender::SharedBuyers shared(histories);
  std::map<std::pair<std::uint32_t, std::uint32_t>, std::uint32_t> counts;
  for (std::uint32_t customer = 0; customer < histories.customers(); ++customer) {
    std::set<std::uint32_t> bought;
    for (const mining::HistoryEntry& entry : histories.of(customer)) bought.insert(entry.code);
    for (const std::uint32_t a : bought)
      for (const std::uint32_t b : bought) ++counts[{a, b}];
  }
  std::size_t pairs = 0;
  for (std::uint32_t product = 0; product < shared.products(); ++product) {
    const auto own = counts.find({product, product});
    RC_ASSERT(shared.buyers(product) == (own == counts.end() ? 0 : own->second));
    pairs += shared.with(product).size() + (own == counts.end() ? 0 : 1);
    for (const auto& other : shared.with(product))
      RC_ASSERT(counts.at({product, other.product}) == other.customers);
  }
  RC_ASSERT(pairs == counts.size());
}

TEST(ProductTrends, CompareTheLastHorizonAndTheYearBefore) {
  HistoryMaker maker(3);
  for (int day = 0; day < 1'000; day += 5) {
    maker.order(day, {0});
    if (day >= 950) maker.order(day, {1});                           // launched lately
    if (day % 365 >= 280 && day % 365 < 340) maker.order(day, {2});  // in its season
  }
  maker.end_customer();
  recommender::Landmarks landmarks{Date{kBegin + 999}, 50, 365, {}, {}, 1};
  landmarks.season_day = kBegin + 645;  // its season begins
  const auto trends = recommender::ProductTrends::fit(maker.histories(), landmarks);
  EXPECT_GT(trends.recent(1), 1);
  EXPECT_LT(trends.recent(0), 0);
  EXPECT_GT(trends.season(2), 0.5);
  EXPECT_EQ(trends.season(1), 0);  // not sold yet
}

/// Customers who choose an earlier product of their own again with n in n + 16: a Dirichlet distribution of
/// precision 16.
TEST(RepeatPurchases, RecoverThePrecisionOfTastes) {
  std::mt19937 random(3);
  HistoryMaker maker(40);
  for (int customer = 0; customer < 1'500; ++customer) {
    std::vector<std::uint32_t> bought;
    for (int order = 0; order < 25; ++order) {
      const bool again = random() % (bought.size() + 16) < bought.size();
      bought.push_back(again ? bought[random() % bought.size()] : static_cast<std::uint32_t>(random() % 40));
      maker.order(order * 20, {bought.back()});
    }
    maker.end_customer();
  }
  EXPECT_EQ(recommender::RepeatPurchases::fit(maker.histories(), kBegin + 500).precision(), 16);
}

TEST(RepeatPurchases, KnowTheUsualIntervalAndTendency) {
  HistoryMaker maker(2);
  for (int customer = 0; customer < 200; ++customer) {
    for (int order = 0; order < 4; ++order) maker.order(order * 40, {0});
    maker.order(200, {1});
    maker.end_customer();
  }
  const auto repeats = recommender::RepeatPurchases::fit(maker.histories(), kBegin + 200);
  EXPECT_GT(repeats.tendency(0), 0.5);
  EXPECT_LT(repeats.tendency(1), -1);
  const recommender::OwnPurchases own{3, kBegin, kBegin + 60, 3};
  EXPECT_DOUBLE_EQ(repeats.interval(0, own), (60 + 40) / 3.0);  // the product's median is one more gap
  EXPECT_DOUBLE_EQ(repeats.weight_of(kBegin + 200 - 365), 0.25);
}

/// Exposures of customers who had bought a product, one landmark after another.
RC_GTEST_PROP(RepurchaseRates, CountEachPosition, ()) {
  constexpr int kDays = 400;
  const mining::Histories histories = random_purchases(pick(1, 20), 4, kDays);
  recommender::Landmarks landmarks{Date{kBegin + kDays}, pick(10, 90), pick(30, 365), {}, {}, 1};
  for (int day = 60; day + landmarks.horizon <= kDays; day += pick(10, 60))
    landmarks.days.push_back(kBegin + day);
  const auto rates = recommender::RepurchaseRates::count(histories, landmarks);
  struct Slow {
    std::uint32_t exposures = 0, purchases = 0;
    std::set<std::uint32_t> customers;
  };
  std::map<std::pair<std::uint32_t, recommender::RecencyState>, Slow> slow;
  for (std::uint32_t customer = 0; customer < histories.customers(); ++customer)
    for (const std::int32_t day : landmarks.days)
      for (std::uint32_t product = 0; product < 4; ++product) {
        std::int32_t last_of_product = recommender::kNever, last = recommender::kNever;
        bool buys = false;
        for (const mining::HistoryEntry& entry : histories.of(customer)) {
          if (entry.day <= day) last = entry.day;
          if (entry.day <= day && entry.code == product) last_of_product = entry.day;
          buys = buys || (entry.code == product && entry.day > day && entry.day <= day + landmarks.horizon);
        }
        if (last_of_product == recommender::kNever || day - last >= landmarks.active) continue;
        Slow& own =
            slow[{product, recommender::RecencyState::of(day - last_of_product, last > last_of_product)}];
        ++own.exposures, own.purchases += buys ? 1U : 0U;
        own.customers.insert(customer);
      }
  for (std::uint32_t product = 0; product < 4; ++product)
    for (const recommender::RecencyState state : recommender::RecencyState::all()) {
      const recommender::Observed& found = rates.of(product, state);
      const Slow& wanted = slow[{product, state}];
      RC_ASSERT(found.exposures == wanted.exposures && found.purchases == wanted.purchases);
      RC_ASSERT(found.customers == wanted.customers.size());
    }
}

RC_GTEST_PROP(SparseCounts, AreThoseOfAMap, ()) {
  struct Count {
    int value = 0;
    void add(const Count& other) { value += other.value; }
  };
  constexpr std::size_t kPlaces = 10;
  recommender::SparseCounts<Count> counts(kPlaces), others(kPlaces);
  for (int round = pick(1, 3); round > 0; --round) {
    counts.clear(), others.clear();
    std::map<std::size_t, int> slow;
    for (int i = pick(0, 15); i > 0; --i) {
      const auto place = static_cast<std::size_t>(pick(0, kPlaces - 1));
      ++(pick(0, 1) == 1 ? counts : others)[place].value;
      ++slow[place];
    }
    counts.add(others);
    RC_ASSERT(counts.used().size() == slow.size());
    for (const auto& [place, value] : slow) RC_ASSERT(counts.at(place).value == value);
  }
}

/// Any number of threads gives the same.
TEST(Taste, DoesNotDependOnThreads) {
  const mining::Histories histories = two_kinds(500, 80);
  const recommender::Landmarks landmarks{Date{kBegin + 300}, 60, 365, {}, {}, 1};
  const analysis::CustomerGroups groups = one_group(histories.customers());
  const auto of_all = recommender::Taste::fit(histories, landmarks, groups);
  const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
  const auto of_one = recommender::Taste::fit(histories, landmarks, groups);
  ASSERT_EQ(of_all.classes.count(), of_one.classes.count());
  for (std::uint32_t product = 0; product < 20; ++product) {
    for (std::size_t each = 0; each < of_all.classes.count(); ++each)
      EXPECT_EQ(of_all.classes.share(each, product), of_one.classes.share(each, product));
    EXPECT_EQ(of_all.items.mean(product), of_one.items.mean(product));
  }
}

}  // namespace
}  // namespace pear::test
