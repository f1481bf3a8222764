// Text that is pure ASCII, which needs no decoding and no checks.
#pragma once

#include <string_view>

namespace pear::sources {

/// Reads every byte without leaving early, so that the compiler can process many at once.
[[nodiscard]] inline bool is_ascii(std::string_view text) {
  unsigned char any = 0;
  for (const char c : text) any |= static_cast<unsigned char>(c);
  return any < 0x80;
}

}  // namespace pear::sources
