// What each customer pays over all products, and whether volume explains it.
#pragma once

#include <cstdint>
#include <vector>

#include "questions/prices/price_comparison.hpp"

namespace pear::prices {

/// Why a customer pays less than others do.
enum class PriceReason : std::uint8_t {
  none,         ///< does not, or it cannot be distinguished from chance
  volume,       ///< pays clearly less than customers of the usual quantity, and buys far more
  unexplained,  ///< pays clearly less than what others of the same volume pay, for most products
};

/// One customer over all products. Money and pieces in units of Decimal.
struct CustomerPrices {
  std::uint32_t customer = 0;
  std::uint32_t products = 0;
  std::uint32_t judged = 0;  ///< products whose price can be judged by volume
  std::uint32_t low = 0;     ///< of these, bought clearly below what the volume explains
  PriceReason reason = PriceReason::none;
  std::int64_t quantity = 0, amount = 0, gap = 0;
  double at_average = 0;                  ///< the same pieces at the average of all customers
  double with_others = 0, at_others = 0;  ///< amount of what others bought too, and the same at their average
  // Of judged products: what was paid, and what the same pieces cost customers of this volume, and those who
  // buy the usual quantity.
  double judged_amount = 0, at_expected = 0, at_usual = 0;
  double judged_quantity = 0, usual_quantity = 0;  ///< of judged products; what the median customers buy
  std::int64_t highest_price = daybook::kEmptyUnits, highest_list_price = daybook::kEmptyUnits;
  std::uint32_t highest_price_product = 0, highest_list_product = 0;  ///< the first, of several

  [[nodiscard]] double index() const;
  [[nodiscard]] double index_of_others() const;
  [[nodiscard]] double usual_index() const;   ///< to those who buy the usual quantity
  [[nodiscard]] double unexplained() const;   ///< to those of the same volume
  [[nodiscard]] double volume_index() const;  ///< 1: as much as the median customers of the same products
};

/// What "clearly" means.
struct PriceRules {
  static constexpr double kClearlyLess =
      0.95;                                ///< of what customers of that volume, or of the usual one, pay
  static constexpr double kFarMore = 2;    ///< times the usual quantity
  static constexpr double kMostOf = 0.75;  ///< of a customer's judged products
};

/// Customers with a pair, in order. A customer is `unexplained` who paid clearly less than expected for most
/// products, where so many would obtained chance (binomial, at the rate of all pairs) for so few that among
/// all who are found less than 1 in 20 is expected to be there by chance (Benjamini and Hochberg, 1995).
/// O(pairs) on all threads. Error: data, where sums leave the range.
[[nodiscard]] OrError<std::vector<CustomerPrices>> customer_price_indices(const daybook::Daybook& daybook,
                                                                          const PriceComparison& levels);

}  // namespace pear::prices
