// Exposures: customers followed along steps, with their purchases and the purchases expected without the
// step.
#pragma once

#include <cstdint>
#include <vector>

#include "recommender/probability_sum.hpp"
#include "recommender/rates/baseline.hpp"
#include "recommender/recency.hpp"

namespace pear::recommender {

/// Exposures and purchases within the horizon. A customer is an exposure at each landmark.
struct Observed {
  std::uint32_t exposures = 0, purchases = 0;
  std::uint32_t customers = 0;  ///< distinct ones among the exposures
  void add(const Observed& other) {
    exposures += other.exposures, purchases += other.purchases, customers += other.customers;
  }
  [[nodiscard]] double rate() const {
    return exposures == 0 ? 0 : static_cast<double>(purchases) / exposures;
  }
};

/// In each recency state, the share of customers who buy because of the step, among those who would not have
/// bought without it.
using Uplift = ByRecency<double>;

/// A step that is followed, and the other steps to the same product, which explain part of its purchases.
struct FollowedStep {
  struct Other {
    std::uint32_t earlier = 0;
    const std::vector<Uplift>* uplift = nullptr;  ///< by group
  };
  std::uint32_t earlier = 0, later = 0;
  std::vector<Other> others;
};

/// What was observed and expected of the exposures of one group in one recency state.
struct RecencyCount {
  Observed observed;
  ProbabilitySum expected;
  void add(const RecencyCount& other) { observed.add(other.observed), expected.add(other.expected); }
};

/// By step, then group. Visits the customers of a sample; O(their entries) for each landmark
/// and step, on all threads, the same for any number of them.
[[nodiscard]] std::vector<ByRecency<RecencyCount>> count_exposures(const Baseline& base,
                                                                   const std::vector<FollowedStep>& steps,
                                                                   CustomerSample sample);

}  // namespace pear::recommender
