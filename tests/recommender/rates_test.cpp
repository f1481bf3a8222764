// What customers buy without a trigger: landmarks, order rate, shares and values, compared with slow twins
// and recovered from simulated purchases.
#include <array>
#include <cmath>
#include <map>
#include <random>
#include <set>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"
#include "recommender/known_shop.hpp"
#include "recommender/rates/purchase_value.hpp"
#include "support/history_maker.hpp"

namespace pear::test {
namespace {

RC_GTEST_PROP(Landmarks, AreEarlyEnoughToObserveTheHorizon, ()) {
  const int horizon = pick(1, 200), days = pick(1, 1'500);
  const auto customers = static_cast<std::uint32_t>(pick(0, 1) == 0 ? 1'000 : 300'000);
  const Date first{kOpening}, as_of{kOpening + days};
  const auto landmarks = recommender::choose_landmarks(first, as_of, horizon, 365, customers);
  RC_ASSERT(landmarks.has_value() == (days >= horizon + 60));
  if (!landmarks) return;
  const int apart = customers > 200'000 ? horizon : (horizon + 2) / 3;
  RC_ASSERT(landmarks->days.back() == as_of.days - horizon);
  RC_ASSERT(landmarks->days.front() >= first.days + 60);
  RC_ASSERT(as_of.days - landmarks->days.front() <= std::max(780, horizon));
  for (std::size_t i = 1; i < landmarks->days.size(); ++i)
    RC_ASSERT(landmarks->days[i] - landmarks->days[i - 1] == apart);
  const int before = landmarks->days.front() - apart;  // one more is too early
  RC_ASSERT(before < first.days + 60 || as_of.days - before > std::max(780, horizon));
  RC_ASSERT(std::abs(landmarks->overlap * apart - horizon) < 1e-9);
  RC_ASSERT(landmarks->season_day.has_value() == (days >= 730));
}

TEST(Landmarks, NeedEnoughDays) {
  const auto none = recommender::choose_landmarks(Date{kOpening}, Date{kOpening + 99}, 90, 365, 10);
  ASSERT_FALSE(none.has_value());
  EXPECT_EQ(none.error().message,
            "the sales up to 2022-04-17 cover 100 days; to learn what customers buy within 90 days, at least "
            "151 are needed.");
}

RC_GTEST_PROP(Landmarks, KnowNothingLater, ()) {
  const mining::Histories histories = random_purchases(pick(1, 20), 5, 300);
  const Date day{kBegin + pick(0, 300)};
  const mining::Histories known = recommender::known_by(histories, day);
  RC_ASSERT(known.customers() == histories.customers());
  std::vector<std::set<std::uint32_t>> buyers(5);
  std::uint32_t with_entries = 0;
  for (std::uint32_t customer = 0; customer < known.customers(); ++customer) {
    std::size_t read = 0;
    for (const mining::HistoryEntry& entry : histories.of(customer)) {
      if (entry.day > day.days) continue;
      RC_ASSERT(read < known.of(customer).size());
      const mining::HistoryEntry& own = known.of(customer)[read++];
      RC_ASSERT(own.code == entry.code && own.day == entry.day && own.order == entry.order);
      buyers[entry.code].insert(customer);
    }
    RC_ASSERT(read == known.of(customer).size());
    with_entries += read > 0 ? 1U : 0U;
  }
  RC_ASSERT(known.buyers == with_entries);
  for (std::uint32_t product = 0; product < 5; ++product)
    RC_ASSERT(known.counts[product] == buyers[product].size());
}

RC_GTEST_PROP(CategoryShares, OfAGroupAreShrunkTowardsAllCustomers, ()) {
  constexpr double kWeight = 20;
  const Known known(random_histories(pick(1, 30), 6));
  const auto products = static_cast<std::uint32_t>(known.histories.counts.size());
  std::vector<std::vector<double>> own(2, std::vector<double>(products));
  for (std::uint32_t customer = 0; customer < known.histories.customers(); ++customer)
    for (const mining::HistoryEntry& entry : known.histories.of(customer)) ++own[customer % 2][entry.code];
  const auto sum_of = [&](std::uint32_t group, int category) {
    double sum = 0;
    for (std::uint32_t product = 0; product < products; ++product)
      if (category < 0 || static_cast<int>(product % 2) == category) sum += own[group][product];
    return sum;
  };
  const double all = sum_of(0, -1) + sum_of(1, -1);
  for (const std::uint32_t group : {0U, 1U}) {
    for (std::uint32_t product = 0; product < products; ++product) {
      const int category = static_cast<int>(product % 2);
      const double usual = (own[0][product] + own[1][product]) / (sum_of(0, category) + sum_of(1, category));
      const double wanted = (own[group][product] + kWeight * usual) / (sum_of(group, category) + kWeight);
      RC_ASSERT(std::abs(known.shares.of_product(group, product) - wanted) < 1e-9);
    }
    for (const int category : {0, 1}) {
      const double usual = (sum_of(0, category) + sum_of(1, category)) / all;
      const double wanted = (sum_of(group, category) + kWeight * usual) / (sum_of(group, -1) + kWeight);
      RC_ASSERT(std::abs(known.shares.of_category(group, static_cast<std::uint32_t>(category), 0, 0) -
                         wanted) < 1e-9);
    }
  }
  std::vector<double> shares(2);
  known.shares.of_categories(1, std::vector<std::uint32_t>{3, 1}, 4, shares);
  RC_ASSERT(std::abs(shares[0] + shares[1] - 1) < 1e-9);
}

/// Customers choose a category of their own again with n in n + 8.
TEST(CategoryShares, RecoverHowMuchCustomersDiffer) {
  constexpr double kConcentration = 8;
  std::mt19937 random(5);
  HistoryMaker maker(4);
  for (int customer = 0; customer < 1'500; ++customer) {
    std::vector<std::uint32_t> bought;
    for (int order = 0; order < 20; ++order) {
      const bool again = random() % (bought.size() + 8) < bought.size();
      const auto category =
          static_cast<std::uint32_t>(again ? bought[random() % bought.size()] : random() % 2);
      bought.push_back(category);
      maker.order(order * 20, {category + 2 * static_cast<std::uint32_t>(random() % 2)});
    }
    maker.end_customer();
  }
  const mining::Histories& histories = maker.histories();
  const auto shares =
      recommender::CategoryShares::fit(histories, one_group(histories.customers()), Known::two_shelves(4));
  const double usual = shares.of_category(0, 0, 0, 0);
  EXPECT_NEAR(usual, 0.5, 0.02);
  EXPECT_NEAR(shares.of_category(0, 0, 4, 4), (4 + kConcentration * usual) / (4 + kConcentration), 1e-9);
}

/// Customers of the second group order three times as often.
TEST(OrderRate, RecoversTheRateOfEachGroup) {
  constexpr double kHorizon = 60;
  std::mt19937 random(7);
  HistoryMaker maker(3);
  for (int customer = 0; customer < 2'000; ++customer) {
    const double days_between = customer % 2 == 0 ? 90 : 30;
    std::exponential_distribution<double> gap(1 / days_between);
    std::set<int> days;
    for (double day = gap(random); day < kOpenDays; day += gap(random)) days.insert(static_cast<int>(day));
    for (const int day : days) maker.order(day, {static_cast<std::uint32_t>(random() % 3)});
    maker.end_customer();
  }
  const Known known(maker.histories(), static_cast<std::int32_t>(kHorizon));
  std::array<double, 2> expected{}, exposures{};
  for (std::uint32_t customer = 0; customer < known.histories.customers(); ++customer)
    recommender::for_each_landmark(known.histories.of(customer), known.landmarks, known.landmarks.days,
                                   [&](const recommender::CustomerState& now) {
                                     expected[customer % 2] += known.items.at(customer, now.landmark);
                                     ++exposures[customer % 2];
                                   });
  EXPECT_NEAR(expected[0] / exposures[0], kHorizon / 90, 0.05);
  EXPECT_NEAR(expected[1] / exposures[1], kHorizon / 30, 0.1);
  EXPECT_NEAR(known.items.dispersion(), 0, 0.1);  // within a group as in a Poisson distribution
  EXPECT_DOUBLE_EQ(known.items.season(), 1);      // two years are not known
}

/// Mean amounts of a product in an order, of each group and of all.
RC_GTEST_PROP(PurchaseValue, IsTheMeanShrunkTowardsAllCustomers, ()) {
  constexpr double kWeight = 3;
  const daybook::Daybook daybook = random_daybook();
  const analysis::CustomerGroups groups = Known::two_groups(daybook.customers());
  const Date as_of{
      daybook.order_days()[static_cast<std::size_t>(pick(0, static_cast<int>(daybook.orders()) - 1))]};
  const recommender::PurchaseValue value(daybook, as_of, groups);
  const daybook::Purchases purchases(daybook);
  struct Slow {
    std::set<std::uint32_t> orders;
    double units = 0;
  };
  std::map<std::pair<std::uint32_t, std::uint32_t>, Slow> own;  // by group and product
  std::map<std::uint32_t, Slow> all;
  daybook::walk_lines(daybook, {0, daybook.customers()}, [&](const daybook::LinePlace& place) {
    const std::int64_t amount = daybook.amounts()[place.line];
    if (!purchases.is_of_product(place.line) || daybook.order_days()[place.order] > as_of.days ||
        amount == daybook::kEmptyUnits)
      return;
    for (Slow* sum : {&own[{place.customer % 2, place.product}], &all[place.product]}) {
      sum->orders.insert(place.order);
      sum->units += static_cast<double>(amount);
    }
  });
  for (std::uint32_t product = 0; product < daybook.products(); ++product) {
    const Slow& whole = all[product];
    const double usual = whole.orders.empty() ? 0 : whole.units / static_cast<double>(whole.orders.size());
    RC_ASSERT(std::abs(value.amount(product) - usual) < 1e-3);
    for (const std::uint32_t group : {0U, 1U}) {
      const Slow& mean = own[{group, product}];
      const double wanted =
          (mean.units + kWeight * usual) / (static_cast<double>(mean.orders.size()) + kWeight);
      RC_ASSERT(std::abs(value.amount(group, product) - wanted) < 1e-3);
    }
  }
}

}  // namespace
}  // namespace pear::test
