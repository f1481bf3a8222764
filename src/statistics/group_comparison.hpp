// The difference between two groups of cases, such as customers with and without an offer.
#pragma once

#include <cstdint>

#include "statistics/wilson_interval.hpp"

namespace pear::statistics {

struct Difference {
  double value = 0;
  Interval interval;  ///< 95%

  /// Whether 0 is outside the interval.
  [[nodiscard]] bool is_significant() const { return interval.low > 0 || interval.high < 0; }
};

/// part / whole - other_part / other_whole, with the interval of Newcombe's method 10, which combines two
/// score intervals (Interval estimation for the difference between independent proportions, Statistics in
/// Medicine 17, 1998). NaN if a group has no case.
[[nodiscard]] Difference difference_of_shares(std::uint64_t part, std::uint64_t whole,
                                              std::uint64_t other_part, std::uint64_t other_whole);

/// Sums over the cases of a group, for the ratio of two sums: the margin of all offers / their number. With a
/// divisor of 1 for each case, it is the mean.
class RatioSums {
 public:
  void add(double value, double divisor = 1);
  [[nodiscard]] double cases() const { return cases_; }
  [[nodiscard]] double sum() const { return values_; }
  /// NaN if the divisors add up to 0.
  [[nodiscard]] double ratio() const { return values_ / divisors_; }
  /// The variance of the ratio, by linearisation (Cochran, Sampling Techniques, 1977, 2.11 and 6.3). NaN with
  /// fewer than two cases.
  [[nodiscard]] double variance() const;

 private:
  double cases_ = 0, values_ = 0, divisors_ = 0;
  double value_squares_ = 0, divisor_squares_ = 0, products_ = 0;
};

/// The difference of two ratios or means of independent groups whose variances differ (Welch, The
/// generalization of 'Student's' problem when several different population variances are involved, Biometrika
/// 34, 1947). NaN if a group has no case; without an interval if one has fewer than two.
[[nodiscard]] Difference difference_of_ratios(const RatioSums& group, const RatioSums& other);

}  // namespace pear::statistics
