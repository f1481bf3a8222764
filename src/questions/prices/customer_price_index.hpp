// What each customer pays over all products, and whether volume explains it.
#pragma once

#include <cstdint>
#include <vector>

#include "questions/prices/order_evidence.hpp"

namespace pear::prices {

/// Why a customer pays less than others do.
enum class PriceReason : std::uint8_t {
  none,         ///< does not, or the difference is not significant
  volume,       ///< pays at least 5% less than customers with the usual quantity, and buys far more
  unexplained,  ///< pays at least 5% less than others with the same volume, in most orders
};

/// One customer over all products. Money and pieces in units of Decimal.
struct CustomerPrices {
  std::uint32_t customer = 0;
  std::uint32_t products = 0;
  OrderEvidence evidence;  ///< of the orders whose prices can be compared by volume
  PriceReason reason = PriceReason::none;
  std::int64_t quantity = 0, amount = 0, gap = 0;
  std::int64_t with_others = 0;  ///< amount of products that others bought too
  // The same pieces at the average of all customers, and of the others: in 1 / kCostScale of a unit, so that
  // the rounding of each product does not matter, and in whole numbers, so that no order of sums does.
  static constexpr std::int64_t kCostScale = 10'000;
  Int128 at_average = 0, at_others = 0;
  // Of products compared by volume: the amount paid, and what the same pieces cost customers of this volume,
  // and customers with the usual quantity, at the prices of the time.
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

/// Customers with a pair, in order. A customer is `unexplained` who paid at least 5% less than expected in
/// total, and clearly so in orders (see OrderEvidence); and has the reason `volume`, if this is so compared
/// with the usual quantity, and they buy at least twice as much. O(pairs) on all threads. Error: data, if
/// sums are out of range.
[[nodiscard]] OrError<std::vector<CustomerPrices>> customer_price_indices(
    const daybook::Daybook& daybook, const PriceComparison& levels,
    const std::vector<OrderEvidence>& evidence);

}  // namespace pear::prices
