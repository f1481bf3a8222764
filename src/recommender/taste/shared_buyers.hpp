// How many customers bought both of two products.
#pragma once

#include <cmath>
#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "mining/purchase_histories.hpp"

namespace pear::recommender {

/// Of the pairs that occur.
class SharedBuyers {
 public:
  struct Other {
    std::uint32_t product = 0, customers = 0;
  };
  /// A sample of up to 100,000 customers, of whom only the first 500 products count. O(pairs of products
  /// of each) on all threads.
  explicit SharedBuyers(const mining::Histories& known);

  [[nodiscard]] std::size_t products() const { return buyers_.size(); }
  [[nodiscard]] std::uint32_t customers() const { return customers_; }
  [[nodiscard]] std::uint32_t buyers(std::uint32_t product) const { return buyers_[product]; }
  [[nodiscard]] const std::vector<std::uint32_t>& all_buyers() const { return buyers_; }
  /// The other products that its buyers bought, in order of product.
  [[nodiscard]] std::span<const Other> with(std::uint32_t product) const {
    return std::span(others_).subspan(begins_[product], begins_[product + 1] - begins_[product]);
  }
  /// Of the two products' buyers: those of both / the geometric mean of the buyers of each.
  [[nodiscard]] double cosine(std::uint32_t product, const Other& other) const {
    return other.customers / std::sqrt(1.0 * buyers(product) * buyers(other.product));
  }

 private:
  std::uint32_t customers_ = 0;
  std::vector<std::uint32_t> buyers_;
  std::vector<Other> others_;
  std::vector<std::size_t> begins_{0};
};

}  // namespace pear::recommender
