// The tables, headline and figures of prices.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "question/price_customers.hpp"
#include "question/prices.hpp"

namespace pear {

/// All that prices found; lines are forgotten by then. What is shared outlives it, in columns that are worked
/// out as they are read.
struct PricesFinding {
  const Asked& asked;
  PricesOptions options;
  std::optional<std::uint32_t> product;  ///< the one asked about
  std::shared_ptr<const PriceLevels> levels;
  std::shared_ptr<const std::vector<std::uint32_t>> rows;        ///< pairs, in the order of the main table
  std::shared_ptr<const std::vector<CustomerPrices>> customers;  ///< the largest gap first
  std::optional<Table> months;                                   ///< of the product asked about

  [[nodiscard]] const Daybook& daybook() const { return asked.daybook; }
  [[nodiscard]] bool has_bounds() const { return options.below || options.above; }
  /// "what others pay"
  [[nodiscard]] std::string compared_with() const;
};

/// A row for each product and customer.
[[nodiscard]] Table paid_table(const PricesFinding& finding);
/// A row for each customer.
[[nodiscard]] Table price_customers_table(const PricesFinding& finding);
/// A row for each product, the largest amount first; or for the one asked about.
[[nodiscard]] Table price_products_table(const PricesFinding& finding);
/// A row for each month in which the product was bought.
[[nodiscard]] Table price_months_table(const Daybook& daybook, std::uint32_t product);

[[nodiscard]] std::vector<std::string> prices_headline(const PricesFinding& finding);
[[nodiscard]] std::vector<Figure> prices_figures(const PricesFinding& finding);

}  // namespace pear
