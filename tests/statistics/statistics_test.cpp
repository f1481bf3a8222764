// Shares and quantiles, against what they are defined by.
#include <cmath>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "statistics/proportion.hpp"
#include "statistics/quantile.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// The ends of the score interval are the shares p for which the observed one is z standard errors away.
RC_GTEST_PROP(Wilson, EndsAreWhereTheScoreTestTurns, ()) {
  const auto whole = static_cast<std::uint64_t>(pick(1, 2000));
  const auto part = static_cast<std::uint64_t>(pick(0, static_cast<int>(whole)));
  const Interval interval = wilson_interval(part, whole);
  const double share = static_cast<double>(part) / static_cast<double>(whole);
  RC_ASSERT(interval.low >= 0.0 && interval.low <= share && share <= interval.high && interval.high <= 1.0);
  for (const double end : {interval.low, interval.high}) {
    const bool at_the_edge = (part == 0 && end == interval.low) || (part == whole && end == interval.high);
    const double score = std::abs(share - end) / std::sqrt(end * (1 - end) / static_cast<double>(whole));
    RC_ASSERT(at_the_edge || std::abs(score - 1.959964) < 1e-5);
  }
}

TEST(Wilson, OfNothingIsNothing) { EXPECT_TRUE(std::isnan(wilson_interval(0, 0).low)); }

/// By the definition: at least so large a part of all values is at most the quantile, and of no smaller
/// value.
RC_GTEST_PROP(Quantile, IsTheSmallestValueThatEnoughDoNotExceed, ()) {
  std::vector<std::int64_t> values;
  std::vector<std::uint64_t> counts(31);
  for (int i = pick(1, 40); i > 0; --i) {
    values.push_back(pick(0, 30));
    ++counts[static_cast<std::size_t>(values.back())];
  }
  const Fraction fraction = *rc::gen::element(kQuarter, kHalf, kThreeQuarters, Fraction{19, 20});
  std::int64_t expected = -1;
  std::uint64_t so_far = 0;
  while (so_far * fraction.whole < values.size() * fraction.part)
    so_far += counts[static_cast<std::size_t>(++expected)];
  RC_ASSERT(quantile_of_counts(counts, fraction) == expected);
  RC_ASSERT(quantile_of(values, fraction) == expected);
}

}  // namespace
}  // namespace pear::test
