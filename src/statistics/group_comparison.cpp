#include "statistics/group_comparison.hpp"

#include <algorithm>
#include <boost/math/distributions/students_t.hpp>
#include <cmath>

namespace pear::statistics {
namespace {

/// Of the half width of an interval.
double hypotenuse(double a, double b) { return std::sqrt(a * a + b * b); }

}  // namespace

Difference difference_of_shares(std::uint64_t part, std::uint64_t whole, std::uint64_t other_part,
                                std::uint64_t other_whole) {
  const double share = static_cast<double>(part) / static_cast<double>(whole);
  const double other_share = static_cast<double>(other_part) / static_cast<double>(other_whole);
  const Interval own = wilson_interval(part, whole), other = wilson_interval(other_part, other_whole);
  const double value = share - other_share;
  return {value,
          {value - hypotenuse(share - own.low, other.high - other_share),
           value + hypotenuse(own.high - share, other_share - other.low)}};
}

void RatioSums::add(double value, double divisor) {
  ++cases_;
  values_ += value;
  divisors_ += divisor;
  value_squares_ += value * value;
  divisor_squares_ += divisor * divisor;
  products_ += value * divisor;
}

double RatioSums::variance() const {
  if (cases_ < 2) return std::nan("");
  const double r = ratio();
  // Of value - ratio x divisor, which adds up to 0. Rounding must not make it negative.
  const double squares = std::max(0.0, value_squares_ - 2 * r * products_ + r * r * divisor_squares_);
  return squares * cases_ / ((cases_ - 1) * divisors_ * divisors_);
}

Difference difference_of_ratios(const RatioSums& group, const RatioSums& other) {
  const double value = group.ratio() - other.ratio();
  const double a = group.variance(), b = other.variance();
  if (!(a + b > 0)) return {value, a + b == 0 ? Interval{value, value} : Interval{a + b, a + b}};
  const double freedom = (a + b) * (a + b) / (a * a / (group.cases() - 1) + b * b / (other.cases() - 1));
  const double half = std::sqrt(a + b) * boost::math::quantile(boost::math::students_t(freedom), 0.975);
  return {value, {value - half, value + half}};
}

}  // namespace pear::statistics
