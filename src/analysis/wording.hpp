// Names of columns as words in a sentence.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "base/decimal.hpp"

namespace pear::analysis {

/// The noun for one value of a column: "product" for product_id, "first month" for first_month.
[[nodiscard]] std::string noun_of(std::string_view column);

/// "products", "categories", "boxes"
[[nodiscard]] std::string plural_of(const std::string& noun);

[[nodiscard]] std::string number(std::uint64_t count);  ///< 1234567 is "1,234,567"

/// "34.2%"; "0.0%" if the whole is 0.
[[nodiscard]] std::string per_cent(std::uint64_t part, std::uint64_t whole);
[[nodiscard]] std::string per_cent(double share);  ///< 0.342 is "34.2%"

/// "1 day", "1,095 days"
[[nodiscard]] std::string days_text(std::int64_t days);

/// "1,234.50 EUR", of units of Decimal rounded to two places.
[[nodiscard]] std::string rounded_money_text(std::int64_t units, std::string_view currency);
/// The exact amount; without decimals if the sum is out of the range of Decimal.
[[nodiscard]] std::string money_text(const DecimalSum& sum, std::string_view currency);

}  // namespace pear::analysis
