// prices: what customers pay, against what others pay.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "base/error.hpp"
#include "question/price_levels.hpp"
#include "question/question.hpp"
#include "result/result.hpp"

namespace pear {

struct PricesOptions {
  Against against = Against::others;
  std::optional<std::int64_t> below, above;  ///< per cent of what is compared with, units of Decimal
  std::optional<std::string> product;        ///< its id, or a name that it has alone
  std::int64_t at_least = 20;                ///< customers that a product must have to be judged
};

/// Price paid by product and customer against the average of all customers, of the others, or the list
/// price, and whether the quantity explains it. Returns never count. O(lines + pairs log pairs) on all
/// threads. Errors: usage, where there is no such product; data, where there are no list prices to compare
/// with, or sums leave the range.
[[nodiscard]] OrError<Result> ask_prices(Asked asked, const PricesOptions& options);

[[nodiscard]] Question prices_question();

}  // namespace pear
