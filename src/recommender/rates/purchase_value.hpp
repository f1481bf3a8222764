// The value of a purchase: its mean amount and margin.
#pragma once

#include <cstdint>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "base/date.hpp"
#include "daybook/daybook.hpp"

namespace pear::recommender {

/// Mean amount and margin of a product in an order, by group of customers, in units of Decimal: sales up to a
/// day, without returns, each group shrunk towards all customers.
class PurchaseValue {
 public:
  /// O(lines) on all threads; the same for any number of them.
  PurchaseValue(const daybook::Daybook& daybook, Date as_of, const analysis::CustomerGroups& groups);

  [[nodiscard]] bool has_margins() const { return !margins_.empty(); }
  [[nodiscard]] double amount(std::uint32_t group, std::uint32_t product) const {
    return amounts_[group * products_ + product];
  }
  /// 0 if no cost of the product is known.
  [[nodiscard]] double margin(std::uint32_t group, std::uint32_t product) const {
    return margins_[group * products_ + product];
  }

  /// For all customers.
  [[nodiscard]] double amount(std::uint32_t product) const { return all_amounts_[product]; }
  [[nodiscard]] double margin(std::uint32_t product) const { return all_margins_[product]; }

 private:
  std::size_t products_;
  std::vector<double> amounts_, margins_;          ///< by group, then product
  std::vector<double> all_amounts_, all_margins_;  ///< by product
};

}  // namespace pear::recommender
