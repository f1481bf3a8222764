// Small text helpers that several components need.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "base/decimal.hpp"

namespace pear {

/// Splits "a,b,c" into "a", "b", "c"; an empty text gives one empty part.
[[nodiscard]] std::vector<std::string> comma_separated(std::string_view text);

/// The text without spaces, tabs and line breaks at its end.
[[nodiscard]] std::string_view without_space_at_end(std::string_view text);

[[nodiscard]] std::string join(std::span<const std::string> parts, std::string_view separator);

/// "Order No." becomes "order_no". Keeps lower-case ASCII letters, digits and bytes of other scripts;
/// everything else becomes one underscore, and none remain at the ends.
[[nodiscard]] std::string snake_case(std::string_view text);

/// The candidate closest to `name`, ignoring case and separators; nothing if none is close. Closeness is the
/// edit distance (Levenshtein), at most a third of the longer name.
[[nodiscard]] std::optional<std::string> nearest_name(std::string_view name,
                                                      std::span<const std::string> candidates);

/// " Did you mean \"region\"?" if a candidate is close; otherwise empty. Append it to a message.
[[nodiscard]] std::string did_you_mean(std::string_view name, std::span<const std::string> candidates);

[[nodiscard]] std::string with_thousands(std::int64_t value);  ///< 1234567 is "1,234,567"
[[nodiscard]] std::string with_thousands(Decimal money);       ///< 1234.5 is "1,234.50"

/// Rounded half away from zero to this many places: 1234.56 with 0 is "1,235"; -1 keeps the exact value
/// without trailing zeros.
[[nodiscard]] std::string with_thousands(Decimal number, int places);

/// "1 customer", "2,305 customers"; pass the plural if adding "s" is not enough.
[[nodiscard]] std::string counted(std::uint64_t count, std::string_view noun, std::string_view plural = "");

/// A value for a message: in double quotes, with control characters made visible and long text cut.
[[nodiscard]] std::string in_quotes(std::string_view value);

}  // namespace pear
