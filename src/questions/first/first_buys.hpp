// When each customer first bought each product, or first bought in each category.
#pragma once

#include <cstdint>
#include <vector>

#include "base/decimal.hpp"
#include "expression/aggregate/grouping.hpp"

namespace pear::first {

/// The first order of a customer that has a value of the key, and what its lines of that value come to.
struct FirstBuy {
  std::uint32_t customer = 0, code = 0, order = 0;
  std::int64_t price = 0;  ///< of all of the lines, kEmptyUnits where they differ
  DecimalSum quantity, amount;

  /// The price that all lines have, or what a piece came to; kEmptyCell where neither is known.
  [[nodiscard]] std::int64_t price_of_piece() const;
};

/// By customer, then in order of time; returned lines left out. O(lines) on all threads. Needs amount.
[[nodiscard]] std::vector<FirstBuy> first_buys(const daybook::Daybook& daybook,
                                               const expression::GroupKey& key);

}  // namespace pear::first
