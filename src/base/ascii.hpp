// ASCII characters, independent of the locale.
#pragma once

namespace pear {

[[nodiscard]] constexpr bool is_digit(char c) { return c >= '0' && c <= '9'; }

/// Line breaks and tabs among them.
[[nodiscard]] constexpr bool is_control(char c) { return static_cast<unsigned char>(c) < 0x20 || c == 0x7F; }

}  // namespace pear
