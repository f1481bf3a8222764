// How much a figure over many customers would vary with other customers of the same population.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "statistics/wilson_interval.hpp"

namespace pear::statistics {

/// Resamples of groups of cases, drawn with replacement (Efron, Bootstrap methods, Annals of Statistics 7,
/// 1979). Cases are assigned to groups, such as each 200th customer, so that a resample is a sum over groups.
/// The draws are the same every time.
class Resamples {
 public:
  static constexpr std::size_t kTimes = 1000;
  static constexpr std::size_t kMostGroups = 200;

  /// For this many groups, at least 1.
  explicit Resamples(std::size_t groups);

  /// How often a resample contains each group.
  [[nodiscard]] std::span<const std::uint16_t> times(std::size_t resample) const {
    return std::span(times_).subspan(resample * groups_, groups_);
  }

 private:
  std::size_t groups_;
  std::vector<std::uint16_t> times_;
};

/// The 95% interval of a figure from its values in the resamples: percentiles. NaN for both ends if there is
/// no value. Reorders the values.
[[nodiscard]] Interval percentile_interval(std::vector<double>& values);

}  // namespace pear::statistics
