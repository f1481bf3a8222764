// What a basket is expected to be worth, given its customer, size and month.
#pragma once

#include <cstddef>
#include <cstdint>
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
    return by_size_[size_level(baskets_.size_of(basket))] * by_month_[baskets_.months[basket]];
  }
  /// By basket, the value of its items.
  [[nodiscard]] const std::vector<std::int64_t>& values() const { return values_; }

 private:
  /// 1, 2, 3, 4, 5 to 6, 7 to 9, 10 to 13, ...: about 1.4 times as large each.
  [[nodiscard]] std::size_t size_level(std::uint32_t size) const { return level_of_size_[size]; }
  void set_up_levels();
  void improve();

  const ValuedBaskets& baskets_;
  std::vector<std::int64_t> values_;
  double mean_ = 0;  ///< of a basket, whatever its sign; units
  std::vector<std::size_t> level_of_size_;
  std::vector<double> by_size_, by_month_;
};

}  // namespace pear::baskets
