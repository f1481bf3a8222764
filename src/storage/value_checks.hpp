// Checks of the values of a daybook file, which may have been written by anything.
#pragma once

#include <cstdint>
#include <span>
#include <string>

#include "base/error.hpp"
#include "daybook/column.hpp"

namespace pear::storage {

/// The values that an array may contain: those from `lowest` to `highest`, and `empty` if that is allowed.
template <class T>
struct Allowed {
  T lowest;
  T highest;
  bool may_be_empty = false;
  T empty{};

  /// Error: data, without the place. O(values), without branches.
  [[nodiscard]] OrError<void> check(std::span<const T> values) const {
    bool fits = true;
    for (const T value : values)
      fits &= (value >= lowest && value <= highest) || (may_be_empty && value == empty);
    if (fits) return {};
    return data_error("it contains a value that is out of range");
  }
};

/// The values of a column's array. `texts` is the size of its dictionary. A date is in the years 0 to 9999.
/// Order dates, quantities and amounts are never empty.
[[nodiscard]] Allowed<std::uint32_t> allowed_codes(std::size_t texts);
[[nodiscard]] Allowed<std::int64_t> allowed_units(const std::string& column);
[[nodiscard]] Allowed<std::int32_t> allowed_days(const std::string& column);
[[nodiscard]] Allowed<std::int32_t> allowed_seconds();
[[nodiscard]] Allowed<std::uint8_t> allowed_flags();

}  // namespace pear::storage
