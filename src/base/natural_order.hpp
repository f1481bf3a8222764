// The order in which people expect ids: P9 before P10.
#pragma once

#include <compare>
#include <string_view>

namespace pear {

/// Compares byte by byte, but compares runs of digits by their value. If two texts differ only in leading
/// zeros of such runs ("P09", "P9"), plain byte order decides. So only equal texts compare equal: a total
/// order.
[[nodiscard]] std::strong_ordering natural_compare(std::string_view a, std::string_view b);

struct NaturalLess {
  using is_transparent = void;
  bool operator()(std::string_view a, std::string_view b) const { return natural_compare(a, b) < 0; }
};

}  // namespace pear
