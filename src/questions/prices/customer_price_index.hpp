// What each customer pays over all products, and whether volume explains it.
#pragma once

#include <cstdint>
#include <vector>

#include "questions/prices/price_comparison.hpp"

namespace pear::prices {

/// Why a customer pays less than others do.
enum class PriceReason : std::uint8_t {
  none,         ///< does not, or the difference is not significant
  volume,       ///< pays at least 5% less than customers with the usual quantity, and buys far more
  unexplained,  ///< pays at least 5% less than others with the same volume, for most products
};

/// One customer over all products. Money and pieces in units of Decimal.
struct CustomerPrices {
  std::uint32_t customer = 0;
  std::uint32_t products = 0;
  std::uint32_t judged = 0;  ///< products whose price can be compared by volume
  std::uint32_t low = 0;     ///< of these, bought at least 5% below the price expected for the volume
  PriceReason reason = PriceReason::none;
  std::int64_t quantity = 0, amount = 0, gap = 0;
  double at_average = 0;  ///< the same pieces at the average of all customers
  double with_others = 0,
         at_others = 0;  ///< amount of products that others bought too, and the same pieces at their average
  // Of products compared by volume: the amount paid, and what the same pieces cost customers of this volume,
  // and customers with the usual quantity.
  double judged_amount = 0, at_expected = 0, at_usual = 0;
  double judged_quantity = 0, usual_quantity = 0;  ///< of these products; the quantity of the median customer
  std::int64_t highest_price = daybook::kEmptyUnits, highest_list_price = daybook::kEmptyUnits;
  std::uint32_t highest_price_product = 0, highest_list_product = 0;  ///< the first, if there are several

  [[nodiscard]] double index() const;
  [[nodiscard]] double index_of_others() const;
  [[nodiscard]] double usual_index() const;   ///< to customers with the usual quantity
  [[nodiscard]] double unexplained() const;   ///< to customers of the same volume
  [[nodiscard]] double volume_index() const;  ///< 1: as much as the median customer of the same products
};

/// The thresholds of the reasons.
struct PriceRules {
  static constexpr double kClearlyLess = 0.95;  ///< of what customers with that volume, or the usual one, pay
  static constexpr double kFarMore = 2;         ///< times the usual quantity
  static constexpr double kMostOf = 0.75;       ///< of a customer's compared products
};

/// Customers with a pair, in order. A customer is `unexplained` who paid at least 5% less than expected for
/// most products, if this number of products is significant: binomial test, at the rate of all pairs, with a
/// false discovery rate of 5% (Benjamini and Hochberg, 1995). O(pairs) on all threads. Error: data, if sums
/// are out of range.
[[nodiscard]] OrError<std::vector<CustomerPrices>> customer_price_indices(const daybook::Daybook& daybook,
                                                                          const PriceComparison& levels);

}  // namespace pear::prices
