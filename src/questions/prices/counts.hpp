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

  [[nodiscard]] const daybook::Daybook& daybook() const { return input.daybook; }
  [[nodiscard]] bool has_bounds() const { return options.below || options.above; }
  /// "what others pay"
  [[nodiscard]] std::string compared_with() const;
};

/// See ask(). Errors: usage, if there is no such product or no list prices; data, if there is no price, or
/// sums are out of range.
[[nodiscard]] OrError<Counts> count(analysis::QuestionInput input, const Options& options);

}  // namespace pear::prices
