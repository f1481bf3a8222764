// Differences between groups, compared with published examples, definitions and simulations.
#include "statistics/group_comparison.hpp"

#include <cmath>
#include <random>
#include <vector>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// Newcombe 1998, table II, method 10.
TEST(DifferenceOfShares, EqualsPublishedExamples) {
  struct Example {
    std::uint64_t part, whole, other_part, other_whole;
    double low, high;
  };
  for (const Example& each : std::vector<Example>{{56, 70, 48, 80, 0.0524, 0.3339},
                                                  {9, 10, 3, 10, 0.1705, 0.8090},
                                                  {6, 7, 2, 7, 0.0582, 0.8062},
                                                  {5, 56, 0, 29, -0.0381, 0.1926},
                                                  {0, 10, 0, 10, -0.2775, 0.2775},
                                                  {10, 10, 0, 10, 0.6075, 1.0000}}) {
    const statistics::Difference difference =
        statistics::difference_of_shares(each.part, each.whole, each.other_part, each.other_whole);
    EXPECT_NEAR(difference.interval.low, each.low, 6e-5) << each.part;
    EXPECT_NEAR(difference.interval.high, each.high, 6e-5) << each.part;
  }
  EXPECT_TRUE(std::isnan(statistics::difference_of_shares(0, 0, 1, 2).value));
}

/// The other way round, the signs change.
RC_GTEST_PROP(DifferenceOfShares, IsSymmetrical, ()) {
  const auto draw = [](int most) { return static_cast<std::uint64_t>(pick(0, most)); };
  const std::uint64_t a = 1 + draw(50), b = 1 + draw(50);
  const std::uint64_t part = draw(static_cast<int>(a)), other = draw(static_cast<int>(b));
  const auto there = statistics::difference_of_shares(part, a, other, b),
             back = statistics::difference_of_shares(other, b, part, a);
  RC_ASSERT(std::abs(there.value + back.value) < 1e-12);
  RC_ASSERT(std::abs(there.interval.low + back.interval.high) < 1e-12);
  RC_ASSERT(there.interval.low <= there.value && there.value <= there.interval.high);
}

/// Of means, the interval is that of Welch's test: here with the variances from their definition, and t from
/// a table (2.179 for 12 degrees of freedom, which two groups of 7 with the same variance have).
TEST(DifferenceOfRatios, OfMeansIsWelchs) {
  const std::vector<double> a = {1, 2, 3, 4, 5, 6, 7}, b = {11, 12, 13, 14, 15, 16, 17};
  statistics::RatioSums of_a, of_b;
  for (const double value : a) of_a.add(value);
  for (const double value : b) of_b.add(value);
  const statistics::Difference difference = statistics::difference_of_ratios(of_b, of_a);
  const double standard_error = std::sqrt(2 * (28.0 / 6) / 7);
  EXPECT_DOUBLE_EQ(difference.value, 10);
  EXPECT_NEAR(difference.interval.low, 10 - 2.1788 * standard_error, 1e-3);
  EXPECT_NEAR(difference.interval.high, 10 + 2.1788 * standard_error, 1e-3);
  statistics::RatioSums one, same;
  one.add(3), same.add(2), same.add(2);
  EXPECT_TRUE(std::isnan(statistics::difference_of_ratios(one, of_a).interval.low));
  EXPECT_EQ(statistics::difference_of_ratios(same, same).interval.high, 0);
}

/// 95% of the intervals of a ratio contain the true difference, with skewed values, divisors that they depend
/// on, and groups of different sizes and variances.
TEST(DifferenceOfRatios, IntervalsCoverTheTruth) {
  std::mt19937 random(7);
  const auto uniform = [&] { return static_cast<double>(random()) / 4294967296.0; };
  constexpr int kTimes = 4'000;
  int covered = 0;
  for (int time = 0; time < kTimes; ++time) {
    const auto draw = [&](int cases, double rate) {
      statistics::RatioSums sums;
      for (int i = 0; i < cases; ++i) {
        const double offers = 1 + static_cast<double>(random() % 5);  // mean 3
        double value = 0;
        for (int offer = 0; offer < static_cast<int>(offers); ++offer)
          if (uniform() < rate) value += -std::log(1 - uniform());  // mean 1
        sums.add(value, offers);
      }
      return sums;
    };
    const statistics::Interval interval =
        statistics::difference_of_ratios(draw(400, 0.3), draw(150, 0.1)).interval;
    covered += interval.low <= 0.2 && 0.2 <= interval.high ? 1 : 0;
  }
  EXPECT_NEAR(1.0 * covered / kTimes, 0.95, 0.012);
}

}  // namespace
}  // namespace pear::test
