// What the other items in an item's baskets earn, compared with similar baskets.
#pragma once

#include <cstddef>
#include <cstdint>
#include <optional>
#include <vector>

namespace pear::baskets {

/// Baskets and the value of their items, in units, customer by customer.
struct ValuedBaskets {
  std::vector<std::uint32_t> customers;  ///< by basket, never decreasing
  std::vector<std::uint16_t> months;     ///< by basket, from the first month of the data
  std::vector<std::uint32_t> begins{0};  ///< by basket its first item, and the end
  std::vector<std::uint32_t> codes;      ///< by item
  std::vector<std::int64_t> values;      ///< by item

  [[nodiscard]] std::size_t size() const { return begins.size() - 1; }
  [[nodiscard]] std::uint32_t size_of(std::size_t basket) const {
    return begins[basket + 1] - begins[basket];
  }
};
/// One after another.
[[nodiscard]] ValuedBaskets joined(std::vector<ValuedBaskets> blocks);

/// The pull of an item, in units per basket.
struct Pull {
  double pull = 0, low = 0,
         high = 0;     ///< with its 95% interval; NaN for less than 2 customers, counted by weight
  double p_value = 1;  ///< that it is above 0, one-sided
};

/// The **pull** of each item, by code: what the other items of its baskets are worth, minus what as many
/// items are worth in other baskets of the same customers. Nothing for items without baskets to compare with.
///
/// A basket of K items of customer c in month t is expected to be worth K x level(c) x factor(K) x factor(t):
/// a Poisson regression with fixed effects of customers (Hausman, Hall and Griliches, Econometric models for
/// count data, Econometrica 52, 1984), whose factors are fitted by raking over the customers with several
/// baskets. So neither large customers, who buy large baskets, nor seasons and price rises look like pull.
/// For an item, R, the value of the other items of the customer's baskets with it, is compared with E / O x
/// V: V is the value of the customer's baskets without it, E and O are the expectations of R and V. Customers
/// whose baskets without it contain fewer items than those others are compared with baskets of the same size
/// and month of other customers (of any month, if fewer than 5 are alike; if there are fewer than 5 in any
/// month, the basket is left out). The pull is the mean difference per basket.
///
/// The test is the score test of the regression: of each customer, (O R - E V) / (O + E), so that customers
/// with few other baskets count less; of customers without any, the difference above. Test and interval treat
/// customers as clusters (Liang and Zeger, Longitudinal data analysis using generalized linear models,
/// Biometrika 73, 1986), by the t distribution. Single-item baskets count with a difference of 0. O(items of
/// baskets) on all threads; the same for any number of them.
[[nodiscard]] std::vector<std::optional<Pull>> find_pulls(ValuedBaskets baskets, std::size_t items);

}  // namespace pear::baskets
