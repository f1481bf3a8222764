// The products that are worth considering for a customer, so that not every product is scored for everyone.
#pragma once

#include <cstddef>
#include <cstdint>
#include <vector>

#include "recommender/purchase_model.hpp"
#include "recommender/taste/latent_classes.hpp"

namespace pear::recommender {

/// Of the allowed products: for each group those with the largest shares in what it buys, overall and within
/// each category; for each latent class those with the largest shares. All of them if there are no more than
/// 500.
class Shortlists {
 public:
  /// O(products x log products) for each group and class.
  Shortlists(const PurchaseModel& model, const LatentClasses& classes,
             const std::vector<std::uint8_t>& allowed);

  [[nodiscard]] const std::vector<std::uint32_t>& of_group(std::uint32_t group) const {
    return of_groups_[group];
  }
  [[nodiscard]] const std::vector<std::uint32_t>& of_class(std::size_t place) const {
    return of_classes_[place];
  }

 private:
  std::vector<std::vector<std::uint32_t>> of_groups_, of_classes_;
};

}  // namespace pear::recommender
