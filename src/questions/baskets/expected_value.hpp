// What a basket is expected to be worth, given its customer, size and month.
#pragma once

#include <cstddef>
#include <cstdint>
#include <utility>
#include <vector>

#include "questions/baskets/pull.hpp"

namespace pear::baskets {

/// The model of `find_pulls`: value = items x level of the customer x factor of the size x factor of the
/// month. The factors are fitted by raking (Deming and Stephan 1940) over customers with several baskets;
/// similar sizes share one.
class ExpectedValue {
 public:
  explicit ExpectedValue(const ValuedBaskets& baskets);

  /// By basket, of one of its items: relative to the level of its customer.
  [[nodiscard]] double of_item(std::size_t basket) const {
    return by_size_[level_of_size_[baskets_.size_of(basket)]] * by_month_[baskets_.months[basket]];
  }
  /// By basket, the value of its items.
  [[nodiscard]] const std::vector<std::int64_t>& values() const { return values_; }

 private:
  /// Observed and expected values of the baskets of each level of a factor.
  struct Sums {
    std::vector<double> observed, expected;
    explicit Sums(std::size_t levels) : observed(levels), expected(levels) {}
    void add(std::size_t level, double observed_value, double expected_value) {
      observed[level] += observed_value;
      expected[level] += expected_value;
    }
    void add(const Sums& other);
  };
  /// By size and by month.
  using SumsOfFactors = std::pair<Sums, Sums>;

  void set_up_levels();
  /// Of the baskets [begin, end) of whole customers.
  void add(std::size_t begin, std::size_t end, SumsOfFactors& sums) const;
  void improve();
  void correct(std::vector<double>& factors, const Sums& sums) const;

  const ValuedBaskets& baskets_;
  std::vector<std::int64_t> values_;
  double mean_ = 0;                           ///< of a basket, whatever its sign; units
  std::vector<std::size_t> customer_begins_;  ///< by customer its first basket, and the end
  std::vector<std::size_t>
      level_of_size_;  ///< 1, 2, 3, 4, 5 to 6, 7 to 8, ...: each about 1.4 times as large
  std::vector<double> by_size_, by_month_;
};

}  // namespace pear::baskets
