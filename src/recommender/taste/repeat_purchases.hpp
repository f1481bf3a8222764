// How regularly customers buy a product again.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "mining/purchase_histories.hpp"

namespace pear::recommender {

/// A customer's purchases of one product so far.
struct OwnPurchases {
  std::uint32_t orders = 0;
  std::int32_t first_day = 0, last_day = 0;
  double weight = 0;  ///< the orders, one half a year earlier counting half
};

/// By product, how many of its buyers buy it again, and after how many days; and how much customers differ in
/// taste.
class RepeatPurchases {
 public:
  /// O(entries).
  [[nodiscard]] static RepeatPurchases fit(const mining::Histories& known, std::int32_t as_of);

  /// The weight of an order on a day, seen from as_of.
  [[nodiscard]] double weight_of(std::int32_t day) const;
  /// The logarithm of the share of a product's buyers who bought it again / that of all products.
  [[nodiscard]] double tendency(std::uint32_t product) const { return tendencies_[product]; }
  /// The usual days between a customer's purchases of a product: their own mean, with the product's median as
  /// one more gap.
  [[nodiscard]] double interval(std::uint32_t product, const OwnPurchases& own) const;
  /// The precision of the Dirichlet distribution of customers' shares of products around those of all
  /// customers: the smaller, the more customers buy what they bought before (Goodhardt, Ehrenberg and
  /// Chatfield, The Dirichlet: a comprehensive model of buying behaviour, JRSS A 147, 1984).
  [[nodiscard]] double precision() const { return precision_; }
  /// The share of a product in what all customers buy.
  [[nodiscard]] double share(std::uint32_t product) const { return shares_[product]; }

 private:
  void fit_precision(const mining::Histories& known);

  std::int32_t as_of_ = 0;
  double precision_ = 1;
  std::vector<double> tendencies_, shares_;
  std::vector<std::int32_t> gaps_;  ///< by product, the median days
};

}  // namespace pear::recommender
