// A support that so few patterns reach that they can be listed.
#pragma once

#include <cstddef>
#include <cstdint>

namespace pear::pushdown {

/// Doubles a support while more than `most` patterns reach it; reach(support) counts them.
template <class Reach>
[[nodiscard]] std::uint32_t doubled_support(std::uint32_t support, std::size_t most, const Reach& reach) {
  while (reach(support) > most) support *= 2;
  return support;
}

}  // namespace pear::pushdown
