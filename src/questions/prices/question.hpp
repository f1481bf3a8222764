// prices: what customers pay, against what others pay.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "questions/prices/price_comparison.hpp"
#include "result/result.hpp"

namespace pear::prices {

struct Options {
  Against against = Against::others;
  std::optional<std::int64_t> below, above;  ///< per cent of what is compared with, units of Decimal
  std::optional<std::string> product;        ///< its id, or a name that it has alone
  std::int64_t at_least = 20;                ///< customers that a product must have to be judged
};

/// Price paid by product and customer against the average of all customers, of the others, or the list
/// price, and whether the quantity explains it. Returns never count. O(lines + pairs log pairs) on all
/// threads. Errors: usage, where there is no such product; data, where there are no list prices to compare
/// with, or sums leave the range.
[[nodiscard]] OrError<result::Result> ask(analysis::QuestionInput asked, const Options& options);

[[nodiscard]] analysis::Question question();

}  // namespace pear::prices
