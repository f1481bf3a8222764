// Products that are bought more, or less, than usual at a time.
#pragma once

#include <cstdint>
#include <vector>

#include "mining/purchase_histories.hpp"
#include "recommender/landmarks.hpp"

namespace pear::recommender {

/// Logarithms of ratios of shares in what all customers buy, by product; 0 where nothing is known. Shares are
/// shrunk towards the usual ones.
class ProductTrends {
 public:
  /// Of sales up to landmarks.as_of. O(entries).
  [[nodiscard]] static ProductTrends fit(const mining::Histories& known, const Landmarks& landmarks);

  /// The share in the last horizon / the share in all sales: above 0 for a product launched lately, below for
  /// one that is being withdrawn.
  [[nodiscard]] double recent(std::uint32_t product) const { return recent_[product]; }
  /// The share in the coming horizon's days of the year before / the share in the year around them.
  [[nodiscard]] double season(std::uint32_t product) const { return season_[product]; }

 private:
  std::vector<double> recent_, season_;
};

}  // namespace pear::recommender
