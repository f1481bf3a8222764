#include "recommender/taste/item_weights.hpp"

#include <Eigen/Cholesky>
#include <Eigen/Core>
#include <algorithm>
#include <cmath>
#include <numeric>

#include "recommender/taste/shared_buyers.hpp"

namespace pear::recommender {
namespace {

constexpr std::size_t kMostSolved = 1'200;  ///< products
constexpr std::size_t kMostKept = 100;      ///< weights of a product

/// The products with most buyers, most first.
std::vector<std::uint32_t> most_bought(const std::vector<std::uint32_t>& buyers) {
  std::vector<std::uint32_t> products(buyers.size());
  std::iota(products.begin(), products.end(), 0U);
  std::stable_sort(products.begin(), products.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return buyers[a] > buyers[b]; });
  products.resize(std::min(products.size(), kMostSolved));
  return products;
}

/// The weights from each of some products to each of them: B = I - P / diag(P), where P is the inverse of the
/// matrix of shared buyers plus the penalty.
Eigen::MatrixXd solved_weights(const SharedBuyers& shared, const std::vector<std::uint32_t>& products) {
  constexpr double kPenalty = 100;  // customers
  const auto count = static_cast<Eigen::Index>(products.size());
  std::vector<std::int32_t> place_of(shared.products(), -1);
  for (std::size_t i = 0; i < products.size(); ++i) place_of[products[i]] = static_cast<std::int32_t>(i);
  Eigen::MatrixXd gram = Eigen::MatrixXd::Zero(count, count);
  for (Eigen::Index i = 0; i < count; ++i) {
    const std::uint32_t product = products[static_cast<std::size_t>(i)];
    gram(i, i) = shared.buyers(product) + kPenalty;
    for (const auto& [other, customers] : shared.with(product))
      if (place_of[other] >= 0) gram(place_of[other], i) = customers;
  }
  const Eigen::MatrixXd inverse =
      gram.selfadjointView<Eigen::Lower>().llt().solve(Eigen::MatrixXd::Identity(count, count));
  Eigen::MatrixXd weights(count, count);
  for (Eigen::Index later = 0; later < count; ++later) {
    weights.col(later) = -inverse.col(later) / inverse(later, later);
    weights(later, later) = 0;
  }
  return weights;
}

}  // namespace

ItemWeights ItemWeights::fit(const mining::Histories& known) {
  const SharedBuyers shared(known);
  const std::vector<std::uint32_t> solved = most_bought(shared.all_buyers());
  std::vector<std::int32_t> place_of(shared.products(), -1);
  for (std::size_t i = 0; i < solved.size(); ++i) place_of[solved[i]] = static_cast<std::int32_t>(i);
  const Eigen::MatrixXd weights = solved_weights(shared, solved);
  ItemWeights items;
  items.means_.resize(shared.products());
  const double customers = std::max<double>(1, shared.customers());
  std::vector<Weight> own;
  for (std::uint32_t product = 0; product < shared.products(); ++product) {
    own.clear();
    const std::int32_t place = place_of[product];
    if (place >= 0)
      for (std::size_t i = 0; i < solved.size(); ++i)
        own.push_back({solved[i], static_cast<float>(weights(place, static_cast<Eigen::Index>(i)))});
    for (const SharedBuyers::Other& other : shared.with(product))
      if (place < 0 || place_of[other.product] < 0)
        own.push_back({other.product, static_cast<float>(shared.cosine(product, other))});
    if (own.size() > kMostKept) {
      std::nth_element(own.begin(), own.begin() + kMostKept, own.end(), [](const Weight& a, const Weight& b) {
        const float of_a = std::abs(a.weight), of_b = std::abs(b.weight);
        return of_a != of_b ? of_a > of_b : a.product < b.product;
      });
      own.resize(kMostKept);
    }
    std::sort(own.begin(), own.end(), [](const Weight& a, const Weight& b) { return a.product < b.product; });
    for (const Weight& weight : own)
      items.means_[weight.product] += static_cast<double>(weight.weight) * shared.buyers(product) / customers;
    items.weights_.insert(items.weights_.end(), own.begin(), own.end());
    items.begins_.push_back(items.weights_.size());
  }
  return items;
}

float ItemWeights::weight(std::uint32_t product, std::uint32_t of) const {
  const auto own = from(product);
  const auto found =
      std::lower_bound(own.begin(), own.end(), of,
                       [](const Weight& each, std::uint32_t other) { return each.product < other; });
  return found != own.end() && found->product == of ? found->weight : 0;
}

}  // namespace pear::recommender
