// The totals of one product's lines.
#pragma once

#include <cstdint>
#include <map>
#include <vector>

#include "daybook/daybook.hpp"

namespace pear::lookup {

/// Purchases of a product, by a customer, in a month or in total.
struct PurchaseSum {
  std::uint64_t customers = 0, orders = 0, lines = 0;
  std::int32_t first_day = 0, last_day = 0;
  DecimalSum quantity, returned;                     ///< pieces bought, and pieces returned, both above 0
  DecimalSum bought, amount;                         ///< money of purchases, and the same net of returns
  std::int64_t lowest_price = 0, highest_price = 0;  ///< paid per piece; kEmptyUnits if none is known
};

struct PriceFacts {
  std::uint64_t customers = 0, lines = 0;
  std::int64_t before_discount =
      0;  ///< the unit_price of all these lines; kEmptyUnits if it differs or is unknown
  DecimalSum quantity;
};

struct ProductBuyers {
  PurchaseSum all;
  std::vector<std::pair<std::uint32_t, PurchaseSum>> buyers;  ///< in order of customers
  std::map<Month, PurchaseSum> months;
  std::map<std::int64_t, PriceFacts> prices;  ///< by price paid per piece, units of Decimal
  std::vector<std::uint64_t> orders_with;     ///< by product: orders that also contain it
  std::uint64_t bought_again = 0;             ///< buyers with two orders of it or more
  std::uint64_t return_lines = 0;
  bool has_quantities = false;
};

/// O(lines). Needs order_date, is_return, amount and the products of lines; quantity and unit_price if
/// available.
[[nodiscard]] ProductBuyers buyers_of_product(const daybook::Daybook& daybook, std::uint32_t product);

}  // namespace pear::lookup
