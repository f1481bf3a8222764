// Letters and digits of ASCII, whatever the locale.
#pragma once

namespace pear {

[[nodiscard]] constexpr bool is_digit(char c) { return c >= '0' && c <= '9'; }

}  // namespace pear
