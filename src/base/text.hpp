// Small text helpers that more than one folder needs.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "base/decimal.hpp"

namespace pear {

/// "a,b,c" as "a", "b", "c"; of an empty text one empty one.
[[nodiscard]] std::vector<std::string> comma_separated(std::string_view text);

/// Without spaces, tabs and line breaks at its end.
[[nodiscard]] std::string_view without_space_at_end(std::string_view text);

[[nodiscard]] std::string join(std::span<const std::string> parts, std::string_view separator);

/// "Order No." becomes "order_no": lower-case ASCII letters, digits and bytes of other scripts stay, all else
/// becomes one underscore, none at the ends.
[[nodiscard]] std::string snake_case(std::string_view text);

/// The candidate most like `name`, ignoring case and separators; nothing where none is close enough to be
/// meant. Closeness is the edit distance (Levenshtein) against a third of the longer name.
[[nodiscard]] std::optional<std::string> nearest_name(std::string_view name,
                                                      std::span<const std::string> candidates);

/// Where a name is near: " Did you mean \"region\"?"; otherwise empty. To be put behind a message.
[[nodiscard]] std::string did_you_mean(std::string_view name, std::span<const std::string> candidates);

[[nodiscard]] std::string with_thousands(std::int64_t value);  ///< 1234567 is "1,234,567"
[[nodiscard]] std::string with_thousands(Decimal money);       ///< 1234.5 is "1,234.50"

/// Rounded half away from zero to so many places: 1234.56 with none is "1,235"; with -1 exact and no longer
/// than it is.
[[nodiscard]] std::string with_thousands(Decimal number, int places);

/// "1 customer", "2,305 customers"; pass the plural where adding "s" is not enough.
[[nodiscard]] std::string counted(std::uint64_t count, std::string_view noun, std::string_view plural = "");

/// A value as it stands in a message: in double quotes, control characters made visible, long text cut.
[[nodiscard]] std::string in_quotes(std::string_view value);

}  // namespace pear
