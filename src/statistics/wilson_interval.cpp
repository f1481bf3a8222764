#include "statistics/wilson_interval.hpp"

#include <algorithm>
#include <boost/math/distributions/normal.hpp>
#include <cmath>
#include <limits>

namespace pear::statistics {

Interval wilson_interval(std::uint64_t part, std::uint64_t whole) {
  constexpr double kNone = std::numeric_limits<double>::quiet_NaN();
  if (whole == 0) return {kNone, kNone};
  static const double kZ = boost::math::quantile(boost::math::normal(), 0.975);
  const auto n = static_cast<double>(whole);
  const double share = static_cast<double>(part) / n;
  const double factor = 1 + kZ * kZ / n;
  const double centre = (share + kZ * kZ / (2 * n)) / factor;
  const double half = kZ / factor * std::sqrt(share * (1 - share) / n + kZ * kZ / (4 * n * n));
  // At the ends the formula gives 0 or 1 except for the last bits.
  return {part == 0 ? 0 : std::max(0.0, centre - half), part == whole ? 1 : std::min(1.0, centre + half)};
}

}  // namespace pear::statistics
