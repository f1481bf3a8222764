// How often customers buy a product again.
#pragma once

#include <cstdint>
#include <vector>

#include "recommender/landmarks.hpp"
#include "recommender/recency.hpp"
#include "recommender/steps/step_exposure.hpp"
#include "recommender/steps/step_timing.hpp"

namespace pear::recommender {

/// Exposures of customers who had bought a product, by how long before and whether they had ordered since;
/// and the days from each purchase of it to the next.
class RepurchaseRates {
 public:
  /// O(products that a customer bought) for each landmark, and O(entries), on all threads; the same for any
  /// number of them.
  [[nodiscard]] static RepurchaseRates count(const mining::Histories& histories, const Landmarks& landmarks);

  [[nodiscard]] const Observed& of(std::uint32_t product, RecencyState recency) const {
    return of_product_[product][recency];
  }
  [[nodiscard]] const StepTiming& timing(std::uint32_t product) const { return timings_[product]; }

 private:
  std::vector<ByRecency<Observed>> of_product_;
  std::vector<StepTiming> timings_;
};

}  // namespace pear::recommender
