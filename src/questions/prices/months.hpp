// A product's price by month.
#pragma once

#include <cstdint>
#include <vector>

#include "base/date.hpp"
#include "daybook/daybook.hpp"

namespace pear::prices {

/// What was paid for a product in a month. Money and pieces in units of Decimal.
struct MonthPrices {
  Month month;
  std::int64_t quantity = 0, amount = 0;
  std::int64_t average = 0, lowest = 0, highest = 0;  ///< per piece
  std::uint32_t customers = 0;
};

/// The months in which the product was bought, in order. O(lines). Sums are known to be within range: see
/// CustomerProductPrices::gather.
[[nodiscard]] std::vector<MonthPrices> months_of(const daybook::Daybook& daybook, std::uint32_t product);

}  // namespace pear::prices
