// How often customers buy a product that they have not bought yet.
#pragma once

#include <cstdint>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "recommender/landmarks.hpp"
#include "recommender/steps/step_exposure.hpp"

namespace pear::recommender {

/// Exposures of customers who had not bought a product, by group and over all.
class PurchaseRates {
 public:
  /// O(entries) for each landmark on all threads; the same for any number of them.
  [[nodiscard]] static PurchaseRates count(const mining::Histories& histories, const Landmarks& landmarks,
                                           const analysis::CustomerGroups& groups);

  [[nodiscard]] const Observed& of_group(std::uint32_t group, std::uint32_t product) const {
    return of_group_[group * of_all_.size() + product];
  }
  [[nodiscard]] const Observed& of_all(std::uint32_t product) const { return of_all_[product]; }

 private:
  std::vector<Observed> of_group_, of_all_;  ///< by group, then product; by product
};

}  // namespace pear::recommender
