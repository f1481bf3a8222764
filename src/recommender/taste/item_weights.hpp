// Which products go with which: a linear model of each product by the others.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "mining/purchase_histories.hpp"

namespace pear::recommender {

/// Whether a customer buys a product, as a weighted sum over the other products they bought: the weights
/// minimise the squared error with a quadratic penalty (EASE: Steck, Embarrassingly shallow autoencoders for
/// sparse data, WWW 2019). For the 1,200 products with most buyers, in closed form; the weights of other
/// products are the cosines of their buyers (Sarwar and others, Item-based collaborative filtering
/// recommendation algorithms, WWW 2001). Of each product only the largest weights are kept.
class ItemWeights {
 public:
  struct Weight {
    std::uint32_t product = 0;
    float weight = 0;
  };
  /// Uses a sample of up to 100,000 customers. O(pairs of products of these customers, and products^3 for
  /// those with most buyers). The same for any number of threads.
  [[nodiscard]] static ItemWeights fit(const mining::Histories& known);

  /// What a purchase of a product says about others, in order of these.
  [[nodiscard]] std::span<const Weight> from(std::uint32_t product) const {
    return std::span(weights_).subspan(begins_[product], begins_[product + 1] - begins_[product]);
  }
  /// One of them; 0 if it was not kept.
  [[nodiscard]] float weight(std::uint32_t product, std::uint32_t of) const;
  /// The mean sum over all customers.
  [[nodiscard]] double mean(std::uint32_t product) const { return means_[product]; }

 private:
  std::vector<Weight> weights_;
  std::vector<std::size_t> begins_{0};
  std::vector<double> means_;
};

}  // namespace pear::recommender
