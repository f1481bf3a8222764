// What prices are compared with: averages, list prices, and the price expected for the volume.
#pragma once

#include <cstdint>
#include <limits>
#include <optional>
#include <vector>

#include "questions/prices/customer_product_prices.hpp"
#include "statistics/isotonic_regression.hpp"

namespace pear::prices {

/// NaN if b is 0.
[[nodiscard]] inline double quotient(double a, double b) {
  return b == 0 ? std::numeric_limits<double>::quiet_NaN() : a / b;
}

/// Whether an amount is at least 5% below another; 1e-6 allows for rounding in sums of prices.
[[nodiscard]] inline bool is_clearly_less(double amount, double expected) {
  constexpr double kClearlyLess = 0.95;
  return expected > 0 && amount <= kClearlyLess * expected * (1 + 1e-6);
}

/// What a price is compared with.
enum class Against : std::uint8_t { all, others, list };

/// A product's prices. Money and pieces in units of Decimal.
struct ProductPrices {
  std::uint32_t customers = 0;
  std::uint32_t below = 0;  ///< customers who pay less than what they are compared with
  std::int64_t quantity = 0, amount = 0;
  std::int64_t lowest = daybook::kEmptyUnits, highest = daybook::kEmptyUnits;  ///< per piece
  std::int64_t lower_quartile = 0, median = 0, upper_quartile = 0;  ///< of customers' average prices
  std::int64_t usual_quantity = 0;                                  ///< median of customers' quantities
  Listed listed;
  /// Amount, as a share of the price of the time, by quantity; empty if there are too few customers to fit.
  statistics::FallingSteps expected;

  [[nodiscard]] std::int64_t average() const;
};

/// Pairs, and the figures computed for each.
class PriceComparison {
 public:
  /// `at_least`: customers that a product needs to compare its prices by volume. O(pairs x log pairs of a
  /// product) on all threads. Error: data, if sums are out of range.
  /// `at_price_of_time` is by pair, see PriceOfTheTime::take_sums.
  [[nodiscard]] static OrError<PriceComparison> work_out(CustomerProductPrices paid,
                                                         std::vector<double> at_price_of_time,
                                                         Against against, std::int64_t at_least);

  /// Of products and some of their pairs that were computed elsewhere, without prices of the time.
  [[nodiscard]] static PriceComparison of_products(CustomerProductPrices paid,
                                                   std::vector<ProductPrices> products, Against against);

  /// Frees what belongs to lines.
  void forget_lines() { paid_.forget_lines(); }

  [[nodiscard]] const CustomerProductPrices& paid() const { return paid_; }
  [[nodiscard]] const ProductPrices& product(std::uint32_t product) const { return products_[product]; }
  [[nodiscard]] const std::vector<ProductPrices>& products() const { return products_; }
  [[nodiscard]] Against against() const { return against_; }
  [[nodiscard]] bool is_judged(std::uint32_t product) const {
    return !products_[product].expected.is_empty();
  }

  // Of a pair. Prices per piece in units of Decimal, kEmptyUnits if there is none; indices are shares, NaN if
  // there is nothing to compare with.
  [[nodiscard]] std::int64_t average(std::size_t pair) const;
  [[nodiscard]] std::int64_t others_average(std::size_t pair) const;
  [[nodiscard]] double index(std::size_t pair) const;  ///< to the average of all customers
  [[nodiscard]] double index_of_others(std::size_t pair) const;
  /// Whether the price is below, or above, a percentage (units of Decimal) of what it is compared with:
  /// exactly. Neither if there is nothing to compare with.
  [[nodiscard]] bool is_below(std::size_t pair, std::int64_t per_cent) const;
  [[nodiscard]] bool is_above(std::size_t pair, std::int64_t per_cent) const;
  // What the pieces would have cost at the average price of all, or of the others, times `scale`; nothing if
  // there is none, or it is out of range.
  [[nodiscard]] std::optional<Int128> at_average(std::size_t pair, std::int64_t scale) const;
  [[nodiscard]] std::optional<Int128> at_others(std::size_t pair, std::int64_t scale) const;
  /// What the pieces would have cost at the price compared with, minus what was paid. kEmptyUnits if there is
  /// none.
  [[nodiscard]] std::int64_t gap(std::size_t pair) const;
  /// What the pieces would have cost at the price of the time, in units; 0 if that is not known.
  [[nodiscard]] double at_price_of_time(std::size_t pair) const { return at_price_of_time_[pair]; }
  [[nodiscard]] double time_index(std::size_t pair) const;  ///< to the price of the time
  [[nodiscard]] double expected_index(std::size_t pair) const { return expected_index_[pair]; }
  /// time_index / expected_index
  [[nodiscard]] double unexplained(std::size_t pair) const;
  /// Whether it is at least 5% below the price expected at the time and for the quantity.
  [[nodiscard]] bool is_low(std::size_t pair) const {
    return is_judged(paid_[pair].product) && is_clearly_less(static_cast<double>(paid_[pair].amount),
                                                             at_price_of_time_[pair] * expected_index(pair));
  }
  /// Of a product, the expected index at the usual quantity.
  [[nodiscard]] double usual_level(std::uint32_t product) const {
    return products_[product].expected.at(products_[product].usual_quantity);
  }

 private:
  OrError<void> complete(std::uint32_t product, std::int64_t at_least);
  /// The sign of price - per_cent of what it is compared with; 0 if there is nothing to compare with.
  [[nodiscard]] int compared(std::size_t pair, std::int64_t per_cent) const;

  CustomerProductPrices paid_;
  Against against_ = Against::others;
  std::vector<ProductPrices> products_;
  std::vector<double> at_price_of_time_, expected_index_;  ///< by pair
};

}  // namespace pear::prices
