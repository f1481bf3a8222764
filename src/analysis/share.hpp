// Shares and percentages as people write them in options.
#pragma once

#include <cstdint>
#include <optional>
#include <string_view>

namespace pear::analysis {

/// "0.05" and "5%" are the share 0.05; nothing if the text is not a number.
[[nodiscard]] std::optional<double> parse_share(std::string_view text);

/// "10" and "10%" are ten per cent, in units of Decimal of per cent; nothing if the text is not a number.
/// Only for options that are stated in per cent.
[[nodiscard]] std::optional<std::int64_t> parse_per_cent(std::string_view text);

}  // namespace pear::analysis
