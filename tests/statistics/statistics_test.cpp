// Shares, quantiles and tests, compared with their definitions.
#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <random>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "statistics/bootstrap.hpp"
#include "statistics/isotonic_regression.hpp"
#include "statistics/quantile.hpp"
#include "statistics/raking.hpp"
#include "statistics/significance.hpp"
#include "statistics/wilson_interval.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// The ends of the score interval are the shares p for which the observed one is z standard errors away.
RC_GTEST_PROP(Wilson, EndsAreWhereTheScoreTestChanges, ()) {
  const auto whole = static_cast<std::uint64_t>(pick(1, 2000));
  const auto part = static_cast<std::uint64_t>(pick(0, static_cast<int>(whole)));
  const statistics::Interval interval = statistics::wilson_interval(part, whole);
  const double share = static_cast<double>(part) / static_cast<double>(whole);
  RC_ASSERT(interval.low >= 0.0 && interval.low <= share && share <= interval.high && interval.high <= 1.0);
  for (const double end : {interval.low, interval.high}) {
    const bool at_the_edge = (part == 0 && end == interval.low) || (part == whole && end == interval.high);
    const double score = std::abs(share - end) / std::sqrt(end * (1 - end) / static_cast<double>(whole));
    RC_ASSERT(at_the_edge || std::abs(score - 1.959964) < 1e-5);
  }
}

TEST(Wilson, OfNoCasesIsNaN) { EXPECT_TRUE(std::isnan(statistics::wilson_interval(0, 0).low)); }

/// By the definition: at least this share of all values is at most the quantile, and of no smaller value.
RC_GTEST_PROP(Quantile, IsTheSmallestValueThatEnoughDoNotExceed, ()) {
  std::vector<std::int64_t> values;
  std::vector<std::uint64_t> counts(31);
  for (int i = pick(1, 40); i > 0; --i) {
    values.push_back(pick(0, 30));
    ++counts[static_cast<std::size_t>(values.back())];
  }
  const statistics::Fraction fraction = *rc::gen::element(
      statistics::kQuarter, statistics::kHalf, statistics::kThreeQuarters, statistics::Fraction{19, 20});
  std::int64_t expected = -1;
  std::uint64_t so_far = 0;
  while (so_far * fraction.whole < values.size() * fraction.part)
    so_far += counts[static_cast<std::size_t>(++expected)];
  RC_ASSERT(statistics::quantile_of_counts(counts, fraction) == expected);
  RC_ASSERT(statistics::quantile_of(values, fraction) == expected);
}

/// The least sum of absolute deviations of a non-increasing function of groups, found by trying every level
/// that occurs for each group in turn.
double least_deviation(const std::vector<std::pair<double, double>>& medians) {  // level, weight
  std::vector<double> levels;
  for (const auto& [level, weight] : medians) levels.push_back(level);
  std::sort(levels.begin(), levels.end());
  std::vector<double> best(levels.size(),
                           0);  // of the groups so far, where the last one has at least this level
  for (const auto& [level, weight] : medians) {
    double least = INFINITY;
    for (std::size_t i = levels.size(); i-- > 0;) {
      best[i] += weight * std::abs(level - levels[i]);
      best[i] = least = std::min(least, best[i]);
    }
  }
  return best.front();
}

RC_GTEST_PROP(FallingFit, HasTheLeastDeviationOfAllThatFall, ()) {
  std::vector<statistics::Observation> observations;
  for (int i = pick(1, 30); i > 0; --i)
    observations.push_back({pick(1, 12), static_cast<double>(pick(1, 8))});
  const statistics::FallingSteps fit =
      statistics::isotonic_regression(observations, {1, 1000});  // every x is a group
  std::map<std::int64_t, std::vector<double>> groups;
  for (const statistics::Observation& each : observations) groups[each.x].push_back(each.y);
  std::vector<std::pair<double, double>> medians;
  double deviation = 0, before = INFINITY;
  for (auto& [x, values] : groups) {
    const auto weight = static_cast<double>(values.size());
    medians.emplace_back(*statistics::quantile_of(values, statistics::kHalf), weight);
    deviation += weight * std::abs(medians.back().first - fit.at(x));
    RC_ASSERT(fit.at(x) <= before);
    before = fit.at(x);
  }
  RC_ASSERT(std::abs(deviation - least_deviation(medians)) < 1e-9);
}

TEST(FallingFit, OneOutlierDoesNotFormALevel) {
  std::vector<statistics::Observation> observations;
  for (int i = 0; i < 30; ++i) observations.push_back({1 + i / 10, 1.0});
  observations.push_back({100, 0.2});
  const statistics::FallingSteps fit = statistics::isotonic_regression(observations);
  EXPECT_EQ(fit.at(100), 1.0);
  EXPECT_EQ(fit.at(0), 1.0);
}

/// The binomial tail as a sum of its terms.
RC_GTEST_PROP(Significance, BinomialTailIsTheSumOfItsTerms, ()) {
  const int whole = pick(1, 25), part = pick(0, whole + 1);
  const double rate = pick(0, 20) / 20.0;
  double sum = 0;
  for (int i = part; i <= whole; ++i)
    sum += std::exp(std::lgamma(whole + 1) - std::lgamma(i + 1) - std::lgamma(whole - i + 1)) *
           std::pow(rate, i) * std::pow(1 - rate, whole - i);
  const double chance = statistics::probability_of_at_least(static_cast<std::uint64_t>(part),
                                                            static_cast<std::uint64_t>(whole), rate);
  RC_ASSERT(std::abs(chance - sum) < 1e-9);
}

/// Every way in which this many of the one set could be among the other, counted.
RC_GTEST_PROP(Significance, HypergeometricTailEqualsCountingAllWays, ()) {
  const int all = pick(1, 40), a = pick(0, all), b = pick(0, all), both = pick(0, std::min(a, b));
  const auto ways = [](int n, int k) {
    long double count = k < 0 || k > n ? 0 : 1;
    for (int i = 1; i <= k && count > 0; ++i) count = count * (n - k + i) / i;
    return count;
  };
  long double sum = 0;
  for (int k = both; k <= std::min(a, b); ++k) sum += ways(a, k) * ways(all - a, b - k);
  const auto expected = static_cast<double>(sum / ways(all, b));
  const auto n = [](int value) { return static_cast<std::uint64_t>(value); };
  RC_ASSERT(std::abs(statistics::probability_of_overlap(n(both), n(a), n(b), n(all)) - expected) <
            1e-11 * (1 + expected));
}

RC_GTEST_PROP(Significance, FisherTestIsTwiceTheSmallerTail, ()) {
  const int all = *rc::gen::inRange(1, 60), part = *rc::gen::inRange(1, all + 1),
            of_all = *rc::gen::inRange(0, all + 1);
  const int least = std::max(0, part + of_all - all), most = std::min(part, of_all);
  const int a = *rc::gen::inRange(least, most + 1);
  const auto tail = [&](int from, int to) {
    double sum = 0;
    for (int k = from; k <= to; ++k)
      sum += std::exp(std::lgamma(part + 1) - std::lgamma(k + 1) - std::lgamma(part - k + 1) +
                      std::lgamma(all - part + 1) - std::lgamma(of_all - k + 1) -
                      std::lgamma(all - part - of_all + k + 1) - std::lgamma(all + 1) +
                      std::lgamma(of_all + 1) + std::lgamma(all - of_all + 1));
    return sum;
  };
  const double expected = std::min(1.0, 2 * std::min(tail(least, a), tail(a, most)));
  const auto n = [](int count) { return static_cast<std::uint64_t>(count); };
  RC_ASSERT(std::abs(statistics::fisher_test(n(a), n(part), n(of_all), n(all)) - expected) < 1e-6);
}

RC_GTEST_PROP(Quantile, QuartilesAreThreeQuantiles, (std::vector<int> values)) {
  RC_PRE(!values.empty());
  std::vector<int> copy = values;
  const statistics::Quartiles quartiles = statistics::quartiles_of(copy);
  RC_ASSERT(quartiles.lower == *statistics::quantile_of(values, statistics::kQuarter));
  RC_ASSERT(quartiles.median == *statistics::quantile_of(values, statistics::kHalf));
  RC_ASSERT(quartiles.upper == *statistics::quantile_of(values, statistics::kThreeQuarters));
}

TEST(Significance, HypergeometricTailIsExactForMillions) {
  // The same as a binomial tail if the whole is so large that removing one changes nothing.
  const double overlap = statistics::probability_of_overlap(30, 1000, 10'000'000, 1'000'000'000);
  EXPECT_NEAR(overlap / statistics::probability_of_at_least(30, 1000, 0.01), 1, 1e-4);
  EXPECT_LT(statistics::probability_of_overlap(5000, 10'000, 10'000, 3'000'000), 1e-300);
  EXPECT_EQ(statistics::probability_of_overlap(0, 10, 10, 100), 1);
}

/// By the definition: the expected share of false discoveries among those with a p value this small, the
/// smallest over all less strict ones.
RC_GTEST_PROP(QValues, AreTheSmallestRateAtWhichEachIsADiscovery, ()) {
  std::vector<double> p_values;
  for (int i = pick(0, 20); i > 0; --i) p_values.push_back(pick(0, 50) / 50.0);
  const std::size_t tests = p_values.size() + static_cast<std::size_t>(pick(0, 10));
  const std::vector<double> q = statistics::q_values(p_values, tests);
  for (std::size_t i = 0; i < p_values.size(); ++i) {
    double smallest = 1;
    for (const double limit : p_values) {
      if (limit < p_values[i]) continue;
      const auto found =
          std::count_if(p_values.begin(), p_values.end(), [&](double p) { return p <= limit; });
      smallest = std::min(smallest, limit * static_cast<double>(tests) / static_cast<double>(found));
    }
    RC_ASSERT(std::abs(q[i] - smallest) < 1e-12);
  }
}

/// How often, in `kSamples` samples, the bootstrap's interval of a mean contains the true one. A sample has
/// this many groups of cases, each drawn by `draw`; the mean is a ratio of sums, as in the questions.
struct Coverage {
  int holds = 0, above = 0, below = 0;
};
constexpr int kSamples = 400;

template <class Draw>
Coverage coverage_of(std::size_t groups, int cases, double true_mean, Draw draw) {
  const statistics::Resamples resamples(groups);
  std::mt19937 random(7);
  Coverage coverage;
  for (int sample = 0; sample < kSamples; ++sample) {
    std::vector<double> sums(groups);
    for (double& sum : sums)
      for (int i = 0; i < cases; ++i) sum += draw(random);
    std::vector<double> means;
    for (std::size_t resample = 0; resample < statistics::Resamples::kTimes; ++resample) {
      const auto times = resamples.times(resample);
      double sum = 0;
      for (std::size_t group = 0; group < groups; ++group) sum += times[group] * sums[group];
      means.push_back(sum / static_cast<double>(groups) / cases);
    }
    const statistics::Interval interval = statistics::percentile_interval(means);
    coverage.above += interval.low > true_mean ? 1 : 0;
    coverage.below += interval.high < true_mean ? 1 : 0;
  }
  coverage.holds = kSamples - coverage.above - coverage.below;
  return coverage;
}

/// 95% of the intervals contain the true mean, within the sampling error of 400 samples (three standard
/// errors are 3.3 points); and the misses are on both sides.
TEST(Bootstrap, IntervalsContainTheTrueMeanAsOftenAsStated) {
  std::exponential_distribution<double> amounts(0.5);
  std::poisson_distribution<int> orders(0.4);
  std::bernoulli_distribution ordered_again(0.05);
  const std::array<std::pair<const char*, Coverage>, 3> all = {
      {{"exponential", coverage_of(200, 5, 2, [&](auto& random) { return amounts(random); })},
       {"Poisson", coverage_of(200, 5, 0.4, [&](auto& random) { return orders(random); })},
       {"share", coverage_of(200, 5, 0.05, [&](auto& random) { return ordered_again(random) ? 1 : 0; })}}};
  for (const auto& [name, coverage] : all) {
    EXPECT_GE(coverage.holds, 0.917 * kSamples) << name;
    EXPECT_LE(coverage.holds, 0.983 * kSamples) << name;
    EXPECT_LE(coverage.above, 0.06 * kSamples) << name;
    EXPECT_LE(coverage.below, 0.06 * kSamples) << name;
  }
}

/// With few cases the percentile interval is too narrow, because it knows no values but theirs: with 20 from
/// a skewed distribution, nine in ten contain the mean. A wider one would be a defect too.
TEST(Bootstrap, IntervalsAreTooNarrowForFewSkewedCases) {
  std::exponential_distribution<double> amounts(0.5);
  const Coverage coverage = coverage_of(20, 1, 2, [&](auto& random) { return amounts(random); });
  EXPECT_GE(coverage.holds, 0.86 * kSamples);
  EXPECT_LE(coverage.holds, 0.95 * kSamples);
  EXPECT_GT(coverage.below, coverage.above);
}

/// The expected sums of each level of each factor equal the observed ones.
RC_GTEST_PROP(Raking, ExpectedSumsEqualTheObservedOnes, ()) {
  std::vector<statistics::RakedCell<2>> cells;
  for (std::size_t row = 0; row < 3; ++row)
    for (std::size_t column = 0; column < 4; ++column)
      cells.push_back({{row, column}, 1.0 * pick(1, 50), 1.0 * pick(1, 50)});
  const statistics::RakedFactors<2> factors = statistics::rake<2>(cells, {3, 4}, 0);
  for (const std::size_t factor : {std::size_t{0}, std::size_t{1}}) {
    std::map<std::size_t, double> observed, expected;
    for (const statistics::RakedCell<2>& cell : cells) {
      observed[cell.levels[factor]] += cell.observed;
      expected[cell.levels[factor]] += cell.expected * factors.at(cell.levels);
    }
    for (const auto& [level, sum] : observed) RC_ASSERT(std::abs(expected[level] - sum) < 0.02 * sum);
  }
}

/// A prior shrinks every factor towards 1, more strongly the less was observed.
TEST(Raking, APriorWeightShrinksFactorsTowardsOne) {
  const std::vector<statistics::RakedCell<1>> cells = {{{0}, 30, 10}, {{1}, 3, 1}};
  statistics::RakedFactors<1> factors = statistics::rake<1>(cells, {2}, 10);
  EXPECT_DOUBLE_EQ(factors.of_level(0)[0], 40.0 / 20);
  EXPECT_DOUBLE_EQ(factors.of_level(0)[1], 13.0 / 11);
}

}  // namespace
}  // namespace pear::test
