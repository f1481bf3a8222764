// Hidden classes of customers who buy alike.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "mining/purchase_histories.hpp"

namespace pear::recommender {

/// A mixture of multinomial distributions over products (a latent class model: Lazarsfeld and Henry, Latent
/// Structure Analysis, 1968), fitted by expectation maximisation (Dempster, Laird and Rubin, JRSS B 39, 1977)
/// to which products each customer has bought; how often does not matter. The sizes of the classes depend on
/// the customer's group. The number of classes, a power of 2 up to 16, is doubled as long as it predicts the
/// second half of the products of customers who were left out clearly better.
class LatentClasses {
 public:
  /// Uses a sample of up to 60,000 customers. O(their products x classes) for each of 30 iterations. The
  /// same for any number of threads.
  [[nodiscard]] static LatentClasses fit(const mining::Histories& known,
                                         const analysis::CustomerGroups& groups);

  [[nodiscard]] std::size_t count() const { return classes_; }
  /// The share of a product in what a class buys.
  [[nodiscard]] double share(std::size_t of_class, std::uint32_t product) const {
    return shares_[product * count() + of_class];
  }
  /// The share of a product in what all customers buy.
  [[nodiscard]] double share(std::uint32_t product) const { return overall_[product]; }
  /// The probability of each class for a customer of a group who has bought these products.
  void classify(std::uint32_t group, std::span<const std::uint32_t> products,
                std::span<double> probabilities) const;
  /// The share of a product in what a customer buys, from the probabilities of their classes.
  [[nodiscard]] double share_of(std::span<const double> probabilities, std::uint32_t product) const;

 private:
  struct Baskets;
  LatentClasses(std::size_t products, std::size_t classes, std::size_t groups);
  void start(const Baskets& customers);
  void iterate(const Baskets& customers);
  [[nodiscard]] std::vector<double> predicted(const Baskets& customers) const;
  void set_from(std::span<const double> counts, std::span<const double> sizes);

  std::size_t classes_;
  std::vector<double> sizes_;    ///< by group, then class: shares of the group's customers
  std::vector<double> shares_;   ///< by product, then class
  std::vector<double> logs_;     ///< of the shares
  std::vector<double> overall_;  ///< by product, its share in what all buy
};

}  // namespace pear::recommender
