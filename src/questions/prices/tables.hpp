// The tables of prices.
#pragma once

#include "questions/prices/counts.hpp"
#include "result/table.hpp"

namespace pear::prices {

/// A row for each product and customer.
[[nodiscard]] result::Table prices_table(const Counts& counts);
/// A row for each customer.
[[nodiscard]] result::Table customers_table(const Counts& counts);
/// A row for each product, the largest amount first; or for the requested one.
[[nodiscard]] result::Table products_table(const Counts& counts);
/// A row for each month in which the requested product was bought.
[[nodiscard]] result::Table months_table(const Counts& counts);

}  // namespace pear::prices
