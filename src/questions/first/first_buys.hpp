// When each customer first bought each product, or first bought in each category.
#pragma once

#include <cstdint>
#include <vector>

#include "base/decimal.hpp"
#include "expression/aggregate/grouping.hpp"

namespace pear::first {

/// A customer's first order with a value of the key, and the totals of its lines with that value.
struct FirstBuy {
  std::uint32_t customer = 0, code = 0, order = 0;
  std::int64_t unit_price = 0;  ///< of all of the lines, before discounts; kEmptyUnits if they differ
  DecimalSum quantity, amount;

  /// Amount / quantity; kEmptyCell if that is not known.
  [[nodiscard]] std::int64_t price_paid() const;
};

/// By customer, then in order of time; without returned lines. O(lines) on all threads. Needs amount.
[[nodiscard]] std::vector<FirstBuy> first_buys(const daybook::Daybook& daybook,
                                               const expression::GroupKey& key);

}  // namespace pear::first
