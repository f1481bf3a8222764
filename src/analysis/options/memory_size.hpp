// Amounts of memory as people write them in options.
#pragma once

#include <cstdint>
#include <string_view>

#include "base/error.hpp"

namespace pear::analysis {

/// "500MB" and "2 GB", in bytes: a million and a thousand million of them. Error: usage, naming the option;
/// also below `lowest`.
[[nodiscard]] OrError<std::uint64_t> parse_memory(std::string_view option, std::string_view text,
                                                  std::uint64_t lowest);

}  // namespace pear::analysis
