// Whole numbers in as few bytes as they need (LEB128: seven bits a byte, the lowest first).
#pragma once

#include <cstdint>
#include <string>

namespace pear {

inline void put_varint(std::string& to, std::uint64_t value) {
  while (value >= 0x80) {
    to.push_back(static_cast<char>(value | 0x80));
    value >>= 7U;
  }
  to.push_back(static_cast<char>(value));
}

/// Reads a number that put_varint() wrote, and moves `at` to what follows.
inline std::uint64_t get_varint(const char*& at) {
  std::uint64_t value = 0;
  for (unsigned shift = 0;; shift += 7) {
    const auto byte = static_cast<std::uint8_t>(*at++);
    value |= static_cast<std::uint64_t>(byte & 0x7FU) << shift;
    if (byte < 0x80) return value;
  }
}

/// Numbers close to zero of either sign as small numbers: 0, -1, 1, -2 become 0, 1, 2, 3.
[[nodiscard]] constexpr std::uint64_t zigzag(std::int64_t value) {
  return (static_cast<std::uint64_t>(value) << 1U) ^ static_cast<std::uint64_t>(value >> 63U);
}
[[nodiscard]] constexpr std::int64_t from_zigzag(std::uint64_t value) {
  return static_cast<std::int64_t>((value >> 1U) ^ (~(value & 1U) + 1U));
}

}  // namespace pear
