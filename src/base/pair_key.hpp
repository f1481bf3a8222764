// Two numbers as one key of a hash map or a sort.
#pragma once

#include <cstdint>
#include <utility>

namespace pear {

/// Sorts by the first number, then by the second.
[[nodiscard]] constexpr std::uint64_t pair_key(std::uint32_t first, std::uint32_t second) {
  return std::uint64_t{first} << 32U | second;
}
[[nodiscard]] constexpr std::pair<std::uint32_t, std::uint32_t> pair_of(std::uint64_t key) {
  return {static_cast<std::uint32_t>(key >> 32U), static_cast<std::uint32_t>(key)};
}

}  // namespace pear
