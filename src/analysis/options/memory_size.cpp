#include "analysis/options/memory_size.hpp"

#include <utility>

#include <fmt/format.h>

#include "base/decimal.hpp"

namespace pear::analysis {
namespace {

constexpr std::uint64_t kMega = 1'000'000, kGiga = 1'000'000'000;

/// Bytes of the unit at the end of the text, which is cut off; 0 if there is none.
std::uint64_t take_unit(std::string_view& text) {
  for (const auto& [unit, bytes] : {std::pair("MB", kMega), {"mb", kMega}, {"GB", kGiga}, {"gb", kGiga}}) {
    if (!text.ends_with(unit)) continue;
    text.remove_suffix(2);
    while (text.ends_with(' ')) text.remove_suffix(1);
    return bytes;
  }
  return 0;
}

}  // namespace

OrError<std::uint64_t> parse_memory(std::string_view option, std::string_view text, std::uint64_t lowest) {
  std::string_view number = text;
  const std::uint64_t unit = take_unit(number);
  const auto size = Decimal::parse(number);
  constexpr std::int64_t kMost = 1'000'000;  // of a unit
  if (unit == 0 || !size || size->units() < 0 || size->units() > kMost * Decimal::kScale)
    return usage_error(
        fmt::format("--{} {}: give an amount of memory with its unit, as 500MB or 2GB.", option, text));
  const std::uint64_t bytes = static_cast<std::uint64_t>(size->units()) * (unit / Decimal::kScale);
  if (bytes < lowest)
    return usage_error(fmt::format("--{} {}: the least is {} MB.", option, text, lowest / kMega));
  return bytes;
}

}  // namespace pear::analysis
