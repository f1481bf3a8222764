// How far a figure of many customers would vary with other customers of the same kind.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "statistics/wilson_interval.hpp"

namespace pear::statistics {

/// Resamples of groups of cases, drawn with replacement (Efron, Bootstrap methods, Annals of Statistics 7,
/// 1979). Cases are put into groups, such as each 200th customer, so that a resample is a sum over groups.
/// The same draws every time.
class Resamples {
 public:
  static constexpr std::size_t kTimes = 1000;
  static constexpr std::size_t kMostGroups = 200;

  /// For so many groups, 1 at least.
  explicit Resamples(std::size_t groups);

  /// By group, how often a resample holds it.
  [[nodiscard]] std::span<const std::uint16_t> times(std::size_t resample) const {
    return std::span(times_).subspan(resample * groups_, groups_);
  }

 private:
  std::size_t groups_;
  std::vector<std::uint16_t> times_;
};

/// The 95% interval of a figure by its values in the resamples: percentiles. NaN for both ends where there
/// is no value. The values are put into another order.
[[nodiscard]] Interval percentile_interval(std::vector<double>& values);

}  // namespace pear::statistics
