// How much each product appeals to a customer, apart from its popularity.
#pragma once

#include <vector>

#include "worlds/distributions.hpp"
#include "worlds/world.hpp"

namespace pear::worlds {

/// Of one customer after another.
class Appeal {
 public:
  /// Each hidden kind of customers likes every product more or less; and products have a place in a space of tastes, in which
  /// each customer has a direction (a low-rank model with a logistic link).
  Appeal(const WorldOptions& options, Random& random);

  /// The next customer.
  void draw(Random& random);
  [[nodiscard]] bool is_given() const { return !of_kinds_.empty() || !places_.empty(); }
  /// The kind that a column of the customers says: the hidden one for three in four, otherwise any.
  [[nodiscard]] int stated_kind() const { return stated_kind_; }
  /// Above 0, at most 1.
  [[nodiscard]] double of(int product) const;

 private:
  std::size_t products_, dimensions_;
  std::vector<double> of_kinds_;  ///< by kind, then product
  std::vector<double> places_;    ///< by product, then dimension
  std::vector<double> direction_;
  int kinds_, kind_ = 0, stated_kind_ = 0;
};

}  // namespace pear::worlds
