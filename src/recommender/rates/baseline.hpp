// What customers buy without any trigger: the baseline that steps are compared with.
#pragma once

#include "analysis/customer_groups.hpp"
#include "mining/purchase_histories.hpp"
#include "recommender/landmarks.hpp"
#include "recommender/rates/category_shares.hpp"
#include "recommender/rates/order_rate.hpp"

namespace pear::recommender {

/// A view of histories and of the models fitted to them: borrows its inputs.
struct Baseline {
  const mining::Histories& histories;
  const Landmarks& landmarks;
  const analysis::CustomerGroups& groups;
  const Categories& categories;
  const OrderRate& rate;
  const CategoryShares& shares;

  [[nodiscard]] std::size_t products() const { return histories.counts.size(); }
  /// See baseline_probability.
  [[nodiscard]] double probability(double category_items, std::uint32_t group, std::uint32_t product) const;
};

/// The probability that a customer of a group buys a product within the horizon, if this many products of its
/// category are expected: the order rate times the customer's share of the category.
[[nodiscard]] inline double baseline_probability(const OrderRate& rate, const CategoryShares& shares,
                                                 double category_items, std::uint32_t group,
                                                 std::uint32_t product) {
  return probability_of_any(category_items * shares.of_product(group, product), rate.dispersion());
}

inline double Baseline::probability(double category_items, std::uint32_t group, std::uint32_t product) const {
  return baseline_probability(rate, shares, category_items, group, product);
}

}  // namespace pear::recommender
