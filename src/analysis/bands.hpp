// Bands: neighbouring values under one label, "2-5".
#pragma once

#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"

namespace pear::analysis {

/// From `from` to `to`, in units of Decimal. Both ends are included, except an end at which the next band
/// begins: so "0-100,100-500" is for amounts and "1,2-5,6-10" for counts.
struct ValueBand {
  static constexpr std::int64_t kOpen = std::numeric_limits<std::int64_t>::max();
  std::string label;
  std::int64_t from = 0;
  std::int64_t to = 0;  ///< kOpen for "11+"
  bool ends_before = false;
};

/// "1,2-5,6-10,11+": numbers, ranges, and possibly an open range at the end, in rising order. Error: usage.
[[nodiscard]] OrError<std::vector<ValueBand>> parse_bands(std::string_view text);

/// The band of a value; nothing if it is outside all bands. O(log bands).
[[nodiscard]] std::optional<std::uint32_t> band_of(const std::vector<ValueBand>& bands, std::int64_t units);

/// Bands of round numbers for these values, in the form of --bands: "0-100,100-250,250+". Reorders the
/// values.
[[nodiscard]] std::string suggested_bands(std::vector<std::int64_t>& units);

}  // namespace pear::analysis
