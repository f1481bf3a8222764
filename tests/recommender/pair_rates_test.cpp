// Customers who bought one product and not another, compared with a slow twin; and random samples of
// customers.
#include "recommender/rates/pair_rates.hpp"

#include <climits>
#include <cmath>
#include <map>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <tbb/global_control.h>

#include "recommender/customer_sample.hpp"
#include "support/history_maker.hpp"

namespace pear::test {
namespace {

/// The first day on which a customer bought a product; never is far away.
int first_day(std::span<const mining::HistoryEntry> history, std::uint32_t product) {
  for (const mining::HistoryEntry& entry : history)
    if (entry.code == product) return entry.day;
  return INT_MAX / 2;
}

/// One landmark and customer after another.
recommender::Observed slow_rate(const mining::Histories& histories, const recommender::Landmarks& landmarks,
                                std::uint32_t earlier, std::uint32_t later) {
  recommender::Observed observed;
  for (std::uint32_t customer = 0; customer < histories.customers(); ++customer) {
    const auto history = histories.of(customer);
    bool is_counted = false;
    for (const int day : landmarks.days) {
      int last = INT_MIN / 2;
      for (const mining::HistoryEntry& entry : history)
        if (entry.day <= day) last = std::max(last, entry.day);
      const int bought = first_day(history, later);
      if (day - last >= landmarks.active || first_day(history, earlier) > day || bought <= day) continue;
      ++observed.exposures;
      observed.purchases += bought <= day + landmarks.horizon ? 1U : 0U;
      is_counted = true;
    }
    observed.customers += is_counted ? 1U : 0U;
  }
  return observed;
}

RC_GTEST_PROP(PairRates, EqualTheSlowTwin, ()) {
  const int products = pick(2, 8), days = pick(100, 500);
  const mining::Histories histories = random_purchases(pick(1, 30), products, days);
  const auto landmarks = recommender::choose_landmarks(Date{kBegin}, Date{kBegin + days}, pick(10, 30),
                                                       pick(30, 365), histories.customers());
  RC_PRE(landmarks.has_value());
  std::vector<recommender::PairRates::Pair> pairs;
  for (int i = pick(1, 10); i > 0; --i) {
    const auto product = [&] { return static_cast<std::uint32_t>(pick(0, products - 1)); };
    pairs.emplace_back(product(), product());
  }
  tbb::global_control threads(tbb::global_control::max_allowed_parallelism,
                              static_cast<std::size_t>(pick(1, 4)));
  const auto rates = recommender::PairRates::count(histories, *landmarks, pairs);
  for (const auto& [earlier, later] : pairs) {
    const recommender::Observed& counted = rates.of(earlier, later);
    const recommender::Observed slow = slow_rate(histories, *landmarks, earlier, later);
    RC_ASSERT(counted.exposures == slow.exposures && counted.purchases == slow.purchases &&
              counted.customers == slow.customers);
  }
}

TEST(CustomerSample, ContainsAboutAsManyAsAskedFor) {
  for (const std::uint64_t most : {50U, 1'000U, 30'000U}) {
    constexpr std::uint32_t kCustomers = 100'000;
    const auto sample = recommender::CustomerSample::of_about(most, kCustomers);
    std::uint64_t inside = 0;
    for (std::uint32_t customer = 0; customer < kCustomers; ++customer)
      inside += sample.contains(customer) ? 1U : 0U;
    EXPECT_NEAR(static_cast<double>(inside), static_cast<double>(most), 0.2 * static_cast<double>(most) + 10);
  }
  EXPECT_TRUE(recommender::CustomerSample::of_about(1'000, 1'000).is_all());
  EXPECT_FALSE(recommender::CustomerSample::of_about(1'000, 1'001).is_all());
}

/// For any pattern of the ids, each kind of customers is sampled alike.
TEST(CustomerSample, HasNoPattern) {
  constexpr std::uint32_t kCustomers = 200'000;
  const auto sample = recommender::CustomerSample::of_about(20'000, kCustomers);
  for (std::uint32_t period = 2; period <= 24; ++period)
    for (std::uint32_t kind = 0; kind < period; ++kind) {
      double all = 0, inside = 0;
      for (std::uint32_t customer = kind; customer < kCustomers; customer += period)
        ++all, inside += sample.contains(customer) ? 1 : 0;
      EXPECT_NEAR(inside / all, 0.1, 5 * std::sqrt(0.1 * 0.9 / all)) << kind << " of " << period;
    }
}

}  // namespace
}  // namespace pear::test
