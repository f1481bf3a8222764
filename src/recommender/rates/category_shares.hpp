// The share of each category and product in what customers order.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "daybook/daybook.hpp"
#include "mining/purchase_histories.hpp"

namespace pear::recommender {

/// The category of each product: its `category`, if the daybook has it; otherwise all are in one.
struct Categories {
  std::uint32_t count = 1;
  std::vector<std::uint32_t> of_product;
};

[[nodiscard]] Categories categories_of(const daybook::Daybook& daybook);

/// A customer's shares of categories are a mixture of their own and their group's: the mean of a
/// Dirichlet-multinomial distribution, whose concentration has the largest likelihood over all customers
/// (Goodhardt, Ehrenberg and Chatfield, The Dirichlet: a comprehensive model of buying behaviour, JRSS A 147,
/// 1984). The share of a product within its category is that of the group, shrunk towards that of all
/// customers.
class CategoryShares {
 public:
  /// O(entries), and O(products + categories) for each group.
  [[nodiscard]] static CategoryShares fit(const mining::Histories& histories,
                                          const analysis::CustomerGroups& groups,
                                          const Categories& categories);

  /// The same with the shares of products multiplied by factors, by group and then product.
  [[nodiscard]] CategoryShares scaled(const std::vector<double>& factors) const;

  /// Of a product within its category, in a group.
  [[nodiscard]] double of_product(std::uint32_t group, std::uint32_t product) const {
    return of_product_[group * products_ + product];
  }
  /// By category, for a customer who bought `items` in total, `bought[category]` of them in each category.
  void of_categories(std::uint32_t group, std::span<const std::uint32_t> bought, std::uint32_t items,
                     std::span<double> shares) const;
  /// For one category, with `bought` of the `items`.
  [[nodiscard]] double of_category(std::uint32_t group, std::uint32_t category, std::uint32_t bought,
                                   std::uint32_t items) const {
    return (bought + concentration_ * of_category_[group * categories_ + category]) /
           (items + concentration_);
  }

 private:
  CategoryShares(std::size_t products, std::size_t categories, std::size_t groups);
  void fit_concentration(const mining::Histories& histories, const analysis::CustomerGroups& groups,
                         const Categories& categories);

  std::size_t products_, categories_;
  std::vector<double> of_product_;   ///< by group, then product: of its category
  std::vector<double> of_category_;  ///< by group, then category
  double concentration_ = 1;
};

}  // namespace pear::recommender
