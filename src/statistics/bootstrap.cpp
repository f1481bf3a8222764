#include "statistics/bootstrap.hpp"

#include <cmath>
#include <random>

#include "statistics/quantile.hpp"

namespace pear::statistics {

Resamples::Resamples(std::size_t groups) : groups_(groups), times_(kTimes * groups) {
  std::mt19937_64 random(20'240'229);
  for (std::size_t resample = 0; resample < kTimes; ++resample)
    for (std::size_t draw = 0; draw < groups; ++draw) ++times_[resample * groups + random() % groups];
}

Interval percentile_interval(std::vector<double>& values) {
  const auto low = quantile_of(values, Fraction{25, 1000});
  const auto high = quantile_of(values, Fraction{975, 1000});
  return {low.value_or(std::nan("")), high.value_or(std::nan(""))};
}

}  // namespace pear::statistics
