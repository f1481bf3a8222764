// The products of a simulated shop: how popular each is, when it is sold, and to whom it appeals.
#pragma once

#include <vector>

#include "worlds/distributions.hpp"
#include "worlds/world.hpp"

namespace pear::worlds {

struct Product {
  double popularity = 1;
  int from = 0, until = 0;  ///< days on which it is sold
  int quarter = -1;         ///< in which it is bought more
  int segment = -1;         ///< of customers to whom it appeals
  double cycle = 0;         ///< days that a piece of a consumable lasts; 0: no consumable
  double price = 10;

  [[nodiscard]] bool is_sold(int day) const { return day >= from && day < until; }
};

class Assortment {
 public:
  Assortment(const WorldOptions& options, Random& random);

  [[nodiscard]] const std::vector<Product>& products() const { return products_; }
  [[nodiscard]] const Product& operator[](int product) const {
    return products_[static_cast<std::size_t>(product)];
  }

  /// A product, by popularity.
  [[nodiscard]] int choose(Random& random) const;

  /// The probability that a customer of this segment who has chosen a product buys it on this day.
  [[nodiscard]] double probability_wanted(int product, int day, int segment) const;
  /// Whether a customer of this segment who has chosen a product buys it on this day.
  [[nodiscard]] bool is_wanted(Random& random, int product, int day, int segment) const;

 private:
  std::vector<Product> products_;
  std::vector<double> cumulative_;  ///< popularity, added up
};

}  // namespace pear::worlds
