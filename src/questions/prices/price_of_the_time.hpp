// What each product cost at the time of each purchase.
#pragma once

#include <cstddef>
#include <cstdint>
#include <utility>
#include <vector>

#include "daybook/daybook.hpp"
#include "questions/prices/customer_product_prices.hpp"

namespace pear::prices {

/// The price of the time of a purchase: median price of the product x what orders paid at that time, relative
/// to the median prices (upper quartile of at least 15 orders of the nearest days) x what the product cost at
/// that time, relative to both (upper quartile of at least 7 purchases of it on the nearest days). So price
/// rises, sale weeks of the whole shop and of one product are in the price of the time; a discount that only
/// some orders got is not.
///
/// Running quantiles are robust against few other values, and follow a jump exactly (Tukey, Exploratory Data
/// Analysis, 1977). Discounts only lower prices, so the upper quartile is robust against discounts of up to
/// three quarters of the orders, where a median would follow a majority of trade orders. O(lines x log lines
/// of a product) on all threads.
class PriceOfTheTime {
 public:
  PriceOfTheTime(const daybook::Daybook& daybook, const CustomerProductPrices& paid);

  /// What the pieces of a line would have cost, in units; 0 if it has no price, or the product was given
  /// away.
  [[nodiscard]] double of_line(std::uint32_t line) const { return static_cast<double>(of_line_[line]); }
  /// The sums of the lines of each pair.
  [[nodiscard]] std::vector<double> take_sums() { return std::move(of_pair_); }

 private:
  friend class TimeFinder;
  std::vector<float> of_line_;
  std::vector<double> of_pair_;
};

/// A value of a day.
struct DatedValue {
  std::int32_t day = 0;
  double value = 0;
};

/// By position, the upper quartile of the values of the nearest days: of as many days on either side as
/// contain at least `fewest` values. Where the data begin or end on one side, half as many are enough, so
/// that no day is compared mostly with later, or earlier, ones. The quartile is a value that occurs. In order
/// of days. O(values + days x fewest).
[[nodiscard]] std::vector<double> running_upper_quartile(const std::vector<DatedValue>& values,
                                                         std::size_t fewest);

}  // namespace pear::prices
