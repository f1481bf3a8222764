// What prices computes: what customers paid, compared with what others paid.
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

/// All that prices computes; the lines of the input are dropped by then. What is shared outlives it, in
/// columns that are computed as they are read.
struct Counts {
  analysis::QuestionInput input;
  Options options;
  std::optional<std::uint32_t> product;  ///< the one asked about
  std::shared_ptr<const PriceComparison> levels;
  std::shared_ptr<const std::vector<std::uint32_t>> rows;        ///< pairs, in the order of the main table
  std::shared_ptr<const std::vector<CustomerPrices>> customers;  ///< the largest gap first
  std::vector<MonthPrices> months;                               ///< of the product asked about

  [[nodiscard]] const daybook::Daybook& daybook() const { return input.daybook; }
  [[nodiscard]] bool has_bounds() const { return options.below || options.above; }
  /// "what others pay"
  [[nodiscard]] std::string compared_with() const;
};

/// See ask(). Errors: usage, where there is no such product or no list prices; data, where there is no price,
/// or sums leave the range.
[[nodiscard]] OrError<Counts> count(analysis::QuestionInput input, const Options& options);

}  // namespace pear::prices
