// Customers followed along steps: what they buy of what a step leads to, and what would be bought without it.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "recommender/landmarks.hpp"
#include "recommender/step_tests.hpp"

namespace pear::recommender {

/// By standing, of those who would not have bought without a step the share that does.
using Uplift = std::array<double, kStandings>;

/// A step that is looked at, and the others to the same product that explain a part of what follows it.
struct FollowedStep {
  struct Other {
    std::uint32_t earlier = 0;
    const std::vector<Uplift>* excess = nullptr;  ///< by group
  };
  std::uint32_t earlier = 0, later = 0;
  std::vector<Other> others;
};

/// What was seen and expected of customers of one group and standing.
struct RecencyCount {
  Observed seen;
  ProbabilitySum expected;

  void add(const RecencyCount& other) { seen.add(other.seen), expected.add(other.expected); }
};

/// By step, then group, then standing. Looks at one customer of `apart`, evenly spread; O(their entries) for
/// each landmark and step, on all threads, the same for any number of them.
[[nodiscard]] std::vector<RecencyCount> count_exposures(const Baseline& base,
                                                        const std::vector<FollowedStep>& steps,
                                                        std::uint32_t apart);

}  // namespace pear::recommender
