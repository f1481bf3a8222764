// The tables of prices.
#pragma once

#include "questions/prices/counts.hpp"
#include "result/table.hpp"

namespace pear::prices {

/// A row for each product and customer.
[[nodiscard]] result::Table prices_table(const Counts& counts);
/// A row for each customer.
[[nodiscard]] result::Table customers_table(const Counts& counts);
/// A row for each product, the largest amount first; or for the one asked about.
[[nodiscard]] result::Table products_table(const Counts& counts);
/// A row for each month in which the product asked about was bought.
[[nodiscard]] result::Table months_table(const Counts& counts);

}  // namespace pear::prices
