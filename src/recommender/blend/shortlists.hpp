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

  /// Of a product in a group, next to one another, because they are read for many products of each customer.
  struct Usual {
    double of_category = 0;  ///< its share in what the group buys of its category
    double of_all = 0;       ///< its share in all that the group buys
    std::uint32_t category = 0;
  };
  [[nodiscard]] const Usual& usual(std::uint32_t group, std::uint32_t product) const {
    return usual_[group * products_ + product];
  }
  [[nodiscard]] const std::vector<std::uint32_t>& of_group(std::uint32_t group) const {
    return of_groups_[group];
  }
  [[nodiscard]] const std::vector<std::uint32_t>& of_class(std::size_t place) const {
    return of_classes_[place];
  }

 private:
  std::size_t products_;
  std::vector<Usual> usual_;  ///< by group, then product
  std::vector<std::vector<std::uint32_t>> of_groups_, of_classes_;
};

}  // namespace pear::recommender
