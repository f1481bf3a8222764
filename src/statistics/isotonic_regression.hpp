// A level that may only fall as something grows, fitted so that a few odd cases do not move it.
#pragma once

#include <cstddef>
#include <cstdint>
#include <vector>

namespace pear::statistics {

struct Observation {
  std::int64_t x = 0;
  double y = 0;
};

/// A falling step function: levels[i] applies from x = begins[i] up to the next one.
class FallingSteps {
 public:
  struct Step {
    std::int64_t begins = 0;
    double level = 0;
  };

  FallingSteps() = default;
  explicit FallingSteps(std::vector<Step> steps);

  [[nodiscard]] bool is_empty() const { return steps_.empty(); }
  /// The level at x; before the first step, the first level. Must not be empty. O(log steps).
  [[nodiscard]] double at(std::int64_t x) const;
  [[nodiscard]] const std::vector<Step>& steps() const { return steps_; }

 private:
  std::vector<Step> steps_;
};

/// How finely x is distinguished.
struct FitGroups {
  std::size_t fewest = 10;  ///< observations in a group, so that no single one forms a level of its own
  std::size_t most = 64;    ///< groups, of about equally many observations
};

/// Antitonic median regression: observations are grouped by neighbouring x, equal ones together, and each
/// group has the median of its y. Of all non-increasing functions of the groups, the fit minimises the sum of
/// absolute deviations from these medians, weighted by group size. It is found by pooling adjacent violators
/// (Ayer, Brunk, Ewing, Reid and Silverman, An empirical distribution function for sampling with incomplete
/// information, Annals of Mathematical Statistics 26, 1955; with medians Robertson and Waltman, On estimating
/// monotone parameters, Annals of Mathematical Statistics 39, 1968). A median is the smallest value that at
/// least half of the weight does not exceed. No observations give no steps. Reorders the observations. O(n
/// log n + groups^2).
[[nodiscard]] FallingSteps isotonic_regression(std::vector<Observation>& observations, FitGroups groups = {});

}  // namespace pear::statistics
