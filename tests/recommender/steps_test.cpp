// Steps: screening, tests, timing and uplift, compared with slow twins and recovered from simulated
// purchases.
#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <random>
#include <set>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "recommender/known_shop.hpp"
#include "recommender/rates/untriggered_rates.hpp"
#include "recommender/steps/product_calendar.hpp"
#include "recommender/steps/step_model.hpp"
#include "recommender/steps/step_tests.hpp"
#include "recommender/steps/step_uplift.hpp"
#include "statistics/quantile.hpp"
#include "statistics/significance.hpp"
#include "statistics/wilson_interval.hpp"
#include "support/history_maker.hpp"

namespace pear::test {
namespace {

using Pair = std::pair<std::uint32_t, std::uint32_t>;

/// Customers who often buy products in the order of their numbers, and pairs of neighbours in one order.
mining::Histories with_directions(int customers, int products) {
  HistoryMaker maker(static_cast<std::size_t>(products));
  for (int customer = 0; customer < customers; ++customer) {
    std::vector<int> bought;
    for (int i = pick(1, 5); i > 0; --i) bought.push_back(pick(0, products - 1));
    if (pick(0, 4) > 0) std::sort(bought.begin(), bought.end());
    int day = pick(0, 100);
    for (const int product : bought) {
      std::set<std::uint32_t> order = {static_cast<std::uint32_t>(product)};
      if ((product ^ 1) < products && pick(0, 2) == 0) order.insert(static_cast<std::uint32_t>(product ^ 1));
      maker.order(day, order);
      day += pick(1, 60);
    }
    maker.end_customer();
  }
  return maker.histories();
}

/// By definition: the smallest p x tests / rank of those with at least this p value.
std::set<Pair> discoveries(const std::map<Pair, double>& p_values, std::size_t tests) {
  std::set<Pair> found;
  for (const auto& [pair, p] : p_values) {
    double q = 1;
    for (const auto& other : p_values) {
      const double at = other.second;
      if (at < p) continue;
      const auto rank = std::count_if(p_values.begin(), p_values.end(),
                                      [&](const auto& each) { return each.second <= at; });
      q = std::min(q, at * static_cast<double>(std::max(tests, p_values.size())) / static_cast<double>(rank));
    }
    if (q <= 0.05) found.insert(pair);
  }
  return found;
}

/// What customers and orders did with each pair of products.
struct SlowLinks {
  std::map<Pair, std::uint64_t> one_way, together;
  std::map<std::uint32_t, std::uint64_t> orders;
  std::uint64_t all_orders = 0;

  explicit SlowLinks(const mining::Histories& histories) {
    for (std::uint32_t customer = 0; customer < histories.customers(); ++customer) {
      std::map<std::uint32_t, std::set<std::int32_t>> days;
      std::map<std::uint32_t, std::set<std::uint32_t>> baskets;
      for (const mining::HistoryEntry& entry : histories.of(customer)) {
        days[entry.code].insert(entry.day);
        baskets[entry.order].insert(entry.code);
      }
      for (const auto& [a, of_a] : days)
        for (const auto& [b, of_b] : days)
          if (*of_b.begin() >= *of_a.rbegin() && *of_b.rbegin() > *of_a.begin()) ++one_way[{a, b}];
      for (const auto& [order, basket] : baskets) {
        ++all_orders;
        for (const std::uint32_t a : basket) {
          ++orders[a];
          for (const std::uint32_t b : basket)
            if (a != b) ++together[{a, b}];
        }
      }
    }
  }
};

RC_GTEST_PROP(ScreenedPairs, AreThoseOfTheSignTestAndOfFishersTest, ()) {
  constexpr std::uint64_t kFewest = 5;
  const int products = pick(2, 7);
  const mining::Histories histories = with_directions(pick(5, 80), products);
  SlowLinks links(histories);
  std::map<Pair, double> directions, orders;
  std::uint64_t frequent = 0, bought = 0;
  for (std::uint32_t a = 0; a < static_cast<std::uint32_t>(products); ++a) {
    bought += histories.counts[a] > 0 ? 1U : 0U;
    frequent += links.orders[a] >= kFewest ? 1U : 0U;
    for (std::uint32_t b = 0; b < static_cast<std::uint32_t>(products); ++b) {
      if (a == b) continue;
      const std::uint64_t there = links.one_way[{a, b}], back = links.one_way[{b, a}];
      if (there + back >= kFewest && (there > back || (there == back && a < b)))
        directions[{a, b}] = statistics::sign_test(there, back);
      const std::uint64_t both = links.together[{a, b}];
      if (a < b && both >= kFewest && both * links.all_orders > links.orders[a] * links.orders[b])
        orders[{a, b}] =
            statistics::probability_of_overlap(both, links.orders[a], links.orders[b], links.all_orders);
    }
  }
  const std::set<Pair> next = discoveries(directions, 0);
  std::set<Pair> together;
  for (const auto& [a, b] : discoveries(orders, frequent * (frequent - 1) / 2))
    for (const Pair& pair : {Pair(a, b), Pair(b, a)})
      if (!next.contains(pair)) together.insert(pair);
  const auto screened = recommender::ScreenedPairs::screen(histories);
  for (std::uint32_t a = 0; a < static_cast<std::uint32_t>(products); ++a)
    for (std::uint32_t b = 0; b < static_cast<std::uint32_t>(products); ++b) {
      using Kind = recommender::PairKind;
      const Kind wanted = a == b                      ? Kind::again
                          : next.contains({a, b})     ? Kind::next
                          : together.contains({a, b}) ? Kind::together
                                                      : Kind::other;
      RC_ASSERT(screened.kind(a, b) == wanted);
    }
  RC_CLASSIFY(!next.empty(), "with directions");
  RC_CLASSIFY(!together.empty(), "with orders");
  RC_ASSERT(screened.pairs(recommender::PairKind::again) == bought);
  RC_ASSERT(screened.pairs(recommender::PairKind::next) == next.size());
  RC_ASSERT(screened.pairs(recommender::PairKind::together) == together.size());
  RC_ASSERT(screened.all_pairs() == bought * bought);
}

RC_GTEST_PROP(StepTiming, CountsTheDaysSinceTheLastPurchase, ()) {
  constexpr std::uint32_t kProducts = 4;
  constexpr std::int32_t kYear = 365;
  const mining::Histories histories = random_purchases(pick(1, 20), kProducts, 600);
  std::vector<Pair> pairs;
  for (std::uint32_t a = 0; a < kProducts; ++a)
    for (std::uint32_t b = 0; b < kProducts; ++b) pairs.emplace_back(a, b);
  const auto timings = recommender::time_steps(histories, pairs);
  for (std::size_t i = 0; i < pairs.size(); ++i) {
    const auto [earlier, later] = pairs[i];
    std::vector<std::int32_t> days;
    std::uint32_t together = 0;
    for (std::uint32_t customer = 0; customer < histories.customers(); ++customer) {
      std::map<std::int32_t, std::set<std::uint32_t>> baskets;  // the shop has one order a day
      for (const mining::HistoryEntry& entry : histories.of(customer)) baskets[entry.day].insert(entry.code);
      bool had_later = false;
      std::int32_t last = recommender::kNever;
      for (const auto& [day, basket] : baskets) {
        if (basket.contains(later) && (earlier == later || !had_later) && last != recommender::kNever &&
            day - last <= kYear) {
          days.push_back(day - last);
          together += earlier != later && basket.contains(earlier) ? 1U : 0U;
        }
        had_later = had_later || basket.contains(later);
        if (basket.contains(earlier)) last = day;
      }
    }
    RC_ASSERT(timings[i].earlier == earlier && timings[i].later == later);
    RC_ASSERT(timings[i].purchases == days.size() && timings[i].together == together);
    if (days.empty()) continue;
    const statistics::Quartiles quartiles = statistics::quartiles_of(days);
    RC_ASSERT(timings[i].days_p25 == quartiles.lower && timings[i].days_median == quartiles.median &&
              timings[i].days_p75 == quartiles.upper);
  }
}

std::vector<recommender::BandCount> random_bands() {
  std::vector<recommender::BandCount> bands;
  for (std::size_t band = 0; band < recommender::kBands; ++band) {
    const int exposures = pick(0, 3) == 0 ? 0 : pick(1, 60);
    bands.push_back({static_cast<double>(pick(0, exposures)), static_cast<double>(exposures),
                     exposures * pick(1, 40) / 100.0});
  }
  return bands;
}

RC_GTEST_PROP(StepTests, ChooseTheMostSignificantOfFourWindows, ()) {
  const std::vector<recommender::BandCount> bands = random_bands();
  const double overlap = pick(1, 3);
  double best = 1;
  std::size_t end_of_best = bands.size();
  for (const std::size_t end : {std::size_t{3}, std::size_t{5}, std::size_t{7}, bands.size()}) {
    recommender::BandCount sum;  // the first 30, 60 and 120 days, and all
    for (std::size_t band = 0; band < end; ++band) sum.add(bands[band]);
    const double part = std::floor(sum.purchases / overlap), whole = std::floor(sum.exposures / overlap);
    if (sum.purchases <= sum.expected || part < 3) continue;
    const double p = 4 * statistics::probability_of_at_least(static_cast<std::uint64_t>(part),
                                                             static_cast<std::uint64_t>(whole),
                                                             sum.expected / sum.exposures);
    if (p < best) best = p, end_of_best = end;
  }
  const recommender::RecencyWindow window = recommender::most_significant_window(bands, overlap);
  RC_ASSERT(window.p == best);
  RC_ASSERT(window.end == end_of_best);
}

RC_GTEST_PROP(StepTests, BoundTheUpliftFromBelow, ()) {
  const std::vector<recommender::BandCount> bands = random_bands();
  const double overlap = pick(1, 3);
  double most = 0;
  for (std::size_t end = 1; end <= bands.size(); ++end) {
    recommender::BandCount sum;
    for (std::size_t band = 0; band < end; ++band) sum.add(bands[band]);
    const auto part = static_cast<std::uint64_t>(sum.purchases / overlap),
               whole = static_cast<std::uint64_t>(sum.exposures / overlap);
    if (whole == 0) continue;
    most = std::max(most, statistics::wilson_interval(part, whole).low - sum.expected / sum.exposures);
  }
  RC_ASSERT(recommender::uplift_lower_bound(bands, overlap) == most);
}

/// Customers buy at random among eight products, and product 1 from 5 to 24 days after product 0 with this
/// probability.
mining::Histories with_a_step(double probability) {
  constexpr unsigned kProducts = 8;
  std::mt19937 random(11);
  HistoryMaker maker(kProducts);
  for (int customer = 0; customer < 2'000; ++customer) {
    std::map<int, std::set<std::uint32_t>> orders;
    for (int order = 0; order < 4; ++order) {
      const int day = static_cast<int>(random() % 470);
      const auto product = static_cast<std::uint32_t>(random() % kProducts);
      const bool is_followed = random() % 1'000 < static_cast<unsigned>(1'000 * probability);
      const int delay = 5 + static_cast<int>(random() % 20);
      orders[day].insert(product == 1 && random() % 3 > 0 ? 2 : product);
      if (product == 0 && is_followed) orders[day + delay].insert(1);
    }
    for (const auto& [day, products] : orders) maker.order(day, products);
    maker.end_customer();
  }
  return maker.histories();
}

std::vector<recommender::Step> steps_of(const Known& known) {
  return recommender::find_steps(known.base(), recommender::ScreenedPairs::screen(known.histories));
}

TEST(Steps, AreFoundWithTheirUpliftAndTiming) {
  constexpr double kProbability = 0.4;
  const Known known(with_a_step(kProbability), 60);
  const std::vector<recommender::Step> steps = steps_of(known);
  ASSERT_EQ(steps.size(), 1U);
  EXPECT_EQ(Pair(steps[0].earlier, steps[0].later), Pair(0, 1));
  EXPECT_LT(steps[0].p, 1e-9);
  EXPECT_GT(steps[0].uplift_lower_bound, 0.2);
  const auto fitted = recommender::fit_uplifts(known.base(), steps);
  const auto model = recommender::StepModel::build(known.histories, fitted, 2);
  const auto uplift_after = [&](int days, std::uint32_t group) {
    const auto cells = model.after(0, recommender::RecencyState::of(days, false));
    return cells.empty() ? 0.0 : model.uplift(cells.front(), group);
  };
  for (const std::uint32_t group : {0U, 1U}) {
    EXPECT_NEAR(uplift_after(3, group), kProbability, 0.08);
    EXPECT_LT(uplift_after(25, group), 0.12);  // the purchase is mostly made by then
    EXPECT_LT(uplift_after(100, group), 0.05);
  }
  EXPECT_TRUE(model.after(1, recommender::RecencyState::of(3, false)).empty());
  EXPECT_EQ(model.steps(), 1U);
  EXPECT_NEAR(model.timing(0, 1).days_median, 15, 4);
  EXPECT_EQ(model.timing(1, 0).purchases, 0U);
}

TEST(Steps, AreNotFoundAmongIndependentPurchases) {
  EXPECT_TRUE(steps_of(Known(with_a_step(0), 60)).empty());
}

TEST(Steps, OfAProductToItselfTriggerNothingNew) {
  const auto triggered = recommender::triggered_by({{0, 1, 0, 0.5}, {2, 2, 0, 0.5}}, 3);
  EXPECT_EQ(triggered, (recommender::TriggeredProducts{{1}, {}, {}}));
}

/// First purchases of products that nothing triggered by the landmark, divided by their expected number.
RC_GTEST_PROP(UntriggeredRatios, AreThoseOfCustomersWithoutATrigger, ()) {
  constexpr double kWeight = 20;
  const Known known(random_histories(pick(1, 30), 6));
  const auto products = static_cast<std::uint32_t>(known.histories.counts.size());
  recommender::TriggeredProducts triggered(products);
  for (int step = pick(0, 6); step > 0; --step)
    triggered[static_cast<std::size_t>(pick(0, static_cast<int>(products) - 1))].push_back(
        static_cast<std::uint32_t>(pick(0, static_cast<int>(products) - 1)));
  struct Sum {
    double observed = 0, expected = 0;
    [[nodiscard]] double shrunk(double usual, double overlap) const {
      return (observed / overlap + kWeight * usual) / (expected / overlap + kWeight);
    }
  };
  std::vector<std::vector<Sum>> own(2, std::vector<Sum>(products));
  std::vector<Sum> all(products);
  for (std::uint32_t customer = 0; customer < known.histories.customers(); ++customer) {
    const auto history = known.histories.of(customer);
    recommender::for_each_landmark(
        history, known.landmarks, known.landmarks.days, [&](const recommender::CustomerState& now) {
          std::set<std::uint32_t> had, next, closed;
          std::array<std::uint32_t, 2> of_category{};
          for (std::uint32_t entry = 0; entry < now.seen; ++entry)
            (entry < now.known ? had : next).insert(history[entry].code);
          for (std::uint32_t entry = 0; entry < now.known; ++entry) ++of_category.at(history[entry].code % 2);
          closed = had;
          for (const std::uint32_t each : had) closed.insert(triggered[each].begin(), triggered[each].end());
          for (std::uint32_t product = 0; product < products; ++product) {
            if (closed.contains(product)) continue;
            const std::uint32_t group = customer % 2, category = product % 2;
            const double items =
                known.items.at(customer, now.landmark) *
                known.shares.of_category(group, category, of_category.at(category), now.known);
            for (Sum* sum : {&own[group][product], &all[product]}) {
              sum->expected += known.base().probability(items, group, product);
              sum->observed += next.contains(product) ? 1 : 0;
            }
          }
        });
  }
  const auto ratios = recommender::untriggered_ratios(known.base(), triggered);
  for (std::uint32_t group = 0; group < 2; ++group)
    for (std::uint32_t product = 0; product < products; ++product) {
      const double usual = all[product].shrunk(1, known.landmarks.overlap);
      const double wanted = own[group][product].shrunk(usual, known.landmarks.overlap);
      RC_ASSERT(std::abs(ratios[group * products + product] - wanted) < 1e-6);
    }
}

TEST(ProductCalendar, KnowsWhenAProductIsLaunched) {
  std::mt19937 random(3);
  HistoryMaker maker(4);
  for (int customer = 0; customer < 1'500; ++customer) {
    std::map<int, std::set<std::uint32_t>> orders;
    for (int order = 0; order < 5; ++order) {
      const int day = static_cast<int>(random() % 500);
      orders[day].insert(static_cast<std::uint32_t>(random() % (day < 300 ? 3 : 4)));
    }
    for (const auto& [day, products] : orders) maker.order(day, products);
    maker.end_customer();
  }
  const Known known(maker.histories(), 60);
  const auto calendar = recommender::ProductCalendar::fit(known.base());
  for (std::size_t landmark = 0; landmark < known.landmarks.days.size(); ++landmark) {
    const int day = known.landmarks.days[landmark] - kOpening;
    const double launched = calendar.factor(landmark, 3);
    EXPECT_TRUE(day > 230 || launched < 0.3) << day;
    EXPECT_TRUE(day < 310 || launched > 1.2) << day;
    EXPECT_NEAR(calendar.factor(landmark, 0), 1, 0.45) << day;
  }
}

}  // namespace
}  // namespace pear::test
