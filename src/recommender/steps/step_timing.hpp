// The number of days between the two purchases of a step.
#pragma once

#include <cstdint>
#include <utility>
#include <vector>

#include "mining/purchase_histories.hpp"

namespace pear::recommender {

/// Days from the last purchase of the earlier product, within a year, to the first one of the later product;
/// for a product and itself, from each purchase to the next.
struct StepTiming {
  std::uint32_t earlier = 0, later = 0;
  std::int32_t days_p25 = 0, days_median = 0, days_p75 = 0;
  std::uint32_t purchases = 0;  ///< customers with these days
  std::uint32_t together = 0;   ///< of these, in orders that contain the earlier product again
};

/// Of pairs of an earlier and a later product, in their order. O(entries of the histories) on all threads.
[[nodiscard]] std::vector<StepTiming> time_steps(
    const mining::Histories& histories, const std::vector<std::pair<std::uint32_t, std::uint32_t>>& pairs);

}  // namespace pear::recommender
