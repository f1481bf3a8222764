// Of what customers order, the share of each shelf and product.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "daybook/daybook.hpp"
#include "mining/purchase_histories.hpp"

namespace pear::recommender {

/// The shelf of each product: its `category`, where the daybook has it; otherwise all are on one.
struct Categories {
  std::uint32_t count = 1;
  std::vector<std::uint32_t> of_product;
};
[[nodiscard]] Categories categories_of(const daybook::Daybook& daybook);

/// Of what is ordered, the share of each shelf and product. A customer's shelves are a mixture of their own
/// and their group's: the mean of a Dirichlet-multinomial distribution, whose concentration is the likeliest
/// for all customers (Goodhardt, Ehrenberg and Chatfield, The Dirichlet: a comprehensive model of buying
/// behaviour, JRSS A 147, 1984). The product of a shelf is its share there in the group, drawn to that of all
/// customers as if they had bought 20 more.
class CategoryShares {
 public:
  CategoryShares(const mining::Histories& histories, const analysis::CustomerGroups& groups,
                 const Categories& shelves);

  [[nodiscard]] double of_product(std::uint32_t group, std::uint32_t product) const {
    return of_product_[group * products_ + product];
  }
  /// Multiplies the shares, by group and then product.
  void adjust(const std::vector<double>& factors);
  /// By shelf, of a customer who bought `items` in all, `bought[shelf]` of each shelf.
  void of_shelves(std::uint32_t group, std::span<const std::uint32_t> bought, std::uint32_t items,
                  std::span<double> shares) const;
  /// Of one shelf, of which `bought` of `items` were.
  [[nodiscard]] double of_shelf(std::uint32_t group, std::uint32_t shelf, std::uint32_t bought,
                                std::uint32_t items) const {
    return (bought + concentration_ * of_shelf_[group * shelves_ + shelf]) / (items + concentration_);
  }

 private:
  void find_concentration(const mining::Histories& histories, const analysis::CustomerGroups& groups,
                          const Categories& shelves);

  std::size_t products_, shelves_;
  std::vector<double> of_product_;  ///< by group, then product: of its shelf
  std::vector<double> of_shelf_;    ///< by group, then shelf
  double concentration_ = 1;
};

}  // namespace pear::recommender
