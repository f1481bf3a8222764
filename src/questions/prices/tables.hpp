// The tables, headline and figures of prices.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "questions/prices/customer_price_index.hpp"
#include "questions/prices/question.hpp"

namespace pear::prices {

/// All that prices found; lines are forgotten by then. What is shared outlives it, in columns that are worked
/// out as they are read.
struct Finding {
  const analysis::QuestionInput& asked;
  Options options;
  std::optional<std::uint32_t> product;  ///< the one asked about
  std::shared_ptr<const PriceComparison> levels;
  std::shared_ptr<const std::vector<std::uint32_t>> rows;        ///< pairs, in the order of the main table
  std::shared_ptr<const std::vector<CustomerPrices>> customers;  ///< the largest gap first
  std::optional<result::Table> months;                           ///< of the product asked about

  [[nodiscard]] const daybook::Daybook& daybook() const { return asked.daybook; }
  [[nodiscard]] bool has_bounds() const { return options.below || options.above; }
  /// "what others pay"
  [[nodiscard]] std::string compared_with() const;
};

/// A row for each product and customer.
[[nodiscard]] result::Table prices_table(const Finding& finding);
/// A row for each customer.
[[nodiscard]] result::Table customers_table(const Finding& finding);
/// A row for each product, the largest amount first; or for the one asked about.
[[nodiscard]] result::Table products_table(const Finding& finding);
/// A row for each month in which the product was bought.
[[nodiscard]] result::Table months_table(const daybook::Daybook& daybook, std::uint32_t product);

[[nodiscard]] std::vector<std::string> headline_of(const Finding& finding);
[[nodiscard]] std::vector<result::Figure> figures_of(const Finding& finding);

}  // namespace pear::prices
