// The finding of the plan: headline, definitions, checks and notes.
#pragma once

#include <string>
#include <vector>

#include "questions/offers/counts.hpp"
#include "result/result.hpp"

namespace pear::offers {

/// The expected value of the offers of one product.
struct ProductSum {
  std::uint32_t product = 0;
  std::uint64_t customers = 0;
  std::int64_t value = 0;  ///< margin, or, without costs, amount; units of Decimal
};
/// The largest value first.
[[nodiscard]] std::vector<ProductSum> sums_by_product(const Counts& counts);
/// "P2 Wool: 1,234.50 EUR margin expected from offers to 62 customers"
[[nodiscard]] std::string product_sentence(const Counts& counts, const ProductSum& sum);

[[nodiscard]] std::vector<std::string> headline_of(const Counts& counts);
[[nodiscard]] result::Definitions definitions_of(const Counts& counts);
[[nodiscard]] std::vector<result::Check> checks_of(const Counts& counts);
[[nodiscard]] std::vector<std::string> notes_of(const Counts& counts);

}  // namespace pear::offers
