// When products are bought: launches, withdrawals and seasons do not make one product follow another.
#pragma once

#include <cstdint>
#include <vector>

#include "recommender/rates/baseline.hpp"

namespace pear::recommender {

/// By landmark and product: how many customers bought the product for the first time within the horizon,
/// compared with the baseline, which knows no time. Shrunk towards 1 with a prior weight of 10 purchases.
class ProductCalendar {
 public:
  /// O(landmarks x what customers had bought) on all threads; memory for landmarks x products.
  [[nodiscard]] static ProductCalendar fit(const Baseline& base);

  [[nodiscard]] double factor(std::size_t landmark, std::uint32_t product) const {
    return factors_[landmark * products_ + product];
  }

 private:
  std::size_t products_ = 0;
  std::vector<float> factors_;
};

}  // namespace pear::recommender
