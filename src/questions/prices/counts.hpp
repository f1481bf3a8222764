// The counts of prices: what customers paid, compared with what others paid.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "questions/prices/customer_price_index.hpp"
#include "questions/prices/months.hpp"
#include "questions/prices/options.hpp"
#include "questions/prices/price_comparison.hpp"

namespace pear::prices {

/// Everything that prices computes; the lines of the input are freed by then. What is shared outlives it, in
/// columns that are computed when they are read.
struct Counts {
  analysis::QuestionInput input;
  Options options;
  std::optional<std::uint32_t> product;  ///< the requested one
  std::shared_ptr<const PriceComparison> levels;
  std::shared_ptr<const std::vector<std::uint32_t>> rows;  ///< pairs, in the order of the main table
  std::uint32_t customers_in_rows = 0;
  std::shared_ptr<const std::vector<CustomerPrices>> customers;  ///< the largest gap first
  std::vector<MonthPrices> months;                               ///< of the requested product
  bool has_tests = true;  ///< whether prices were compared with those of the time and by volume; if not,
                          ///< pairs are only known within bounds or of a product

  [[nodiscard]] const daybook::Daybook& daybook() const { return input.daybook; }
  [[nodiscard]] bool has_bounds() const { return options.below || options.above; }
  [[nodiscard]] bool lists_pairs() const { return has_tests || has_bounds() || product; }
  /// Pairs of the requested product, or of all: of which `rows` are those within the bounds.
  [[nodiscard]] std::uint64_t pairs() const;
  /// "what others pay"
  [[nodiscard]] std::string compared_with() const;
};

/// See ask(). Errors: usage, if there is no such product or no list prices; data, if there is no price, or
/// sums are out of range.
[[nodiscard]] OrError<Counts> count(analysis::QuestionInput input, const Options& options);

/// Counts whose parts were computed elsewhere: sorts the customers, and the pairs of `levels` that are within
/// the bounds and of the product. `input` needs no lines.
[[nodiscard]] Counts counts_of(analysis::QuestionInput input, const Options& options,
                               std::optional<std::uint32_t> product, PriceComparison levels,
                               std::vector<CustomerPrices> customers);

/// Errors: usage, for list prices that nobody knows; data, if there is no price.
[[nodiscard]] OrError<void> check_prices(const Options& options, bool has_list_prices, bool has_prices);

}  // namespace pear::prices
