// Small made-up shops with all the faults of large ones, for properties and twins.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "daybook/builder.hpp"

namespace pear::test {

/// One line as a person would write it.
struct Sale {
  std::string order_id;
  std::string date;  ///< "2024-03-01", or with " 10:30" after it
  std::string customer_id;
  std::string product_id;
  std::int64_t quantity = 0;    ///< whole
  std::int64_t unit_price = 0;  ///< cents
  bool is_fee = false;
};

/// Whether the import takes a line for a return.
inline bool is_return(const Sale& sale) { return sale.quantity < 0 || sale.quantity * sale.unit_price < 0; }
using Sales = std::vector<Sale>;

/// A whole number of [lowest, highest], all equally often.
[[nodiscard]] int pick(int lowest, int highest);

/// Between 1 and about 60 lines: few customers, order ids that customers share, orders whose lines have
/// different dates, products bought twice in one order, returns, orders that contain only returns, days with
/// several orders. `with_times` gives some lines a time of day.
[[nodiscard]] Sales random_sales(bool with_times = false);

/// The sales as CSV with the roles' names.
[[nodiscard]] std::string to_csv(const Sales& sales);

/// The daybook that the import builds from them, without a file in between. It marks fees if there are any.
[[nodiscard]] daybook::BuiltDaybook build(const Sales& sales);

/// A random shop with more columns at every level, with some values missing: region, credit_limit
/// (customers), channel (orders), category, unit_cost (products), note (lines), list_price (products, or
/// lines).
[[nodiscard]] daybook::Daybook random_daybook();

}  // namespace pear::test
