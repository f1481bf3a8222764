// Text without letters beyond ASCII, in which there is nothing to decode or to check.
#pragma once

#include <string_view>

namespace pear::sources {

/// Looks at every byte without leaving early, so that the compiler can look at many at once.
[[nodiscard]] inline bool is_ascii(std::string_view text) {
  unsigned char any = 0;
  for (const char c : text) any |= static_cast<unsigned char>(c);
  return any < 0x80;
}

}  // namespace pear::sources
