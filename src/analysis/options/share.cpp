#include "analysis/options/share.hpp"

#include <fmt/format.h>

#include "base/decimal.hpp"
#include "base/text.hpp"

namespace pear::analysis {
namespace {

std::string per_cent_of(std::int64_t share) { return Decimal::from_units(share).to_text() + "%"; }

/// "25% or 0.25"; above 100, only with the sign.
std::string both_ways(Decimal number) {
  const std::string per_cent = number.to_text() + "%";
  constexpr std::int64_t kHundred = 100 * Decimal::kScale;
  if (number.units() > kHundred || number.units() % 100 != 0) return per_cent;
  return fmt::format("{} or {}", per_cent, Decimal::from_units(number.units() / 100).to_text());
}

}  // namespace

OrError<std::int64_t> parse_share(std::string_view option, std::string_view text, std::int64_t lowest,
                                  std::int64_t highest) {
  std::string_view number = text;
  const bool per_cent = number.ends_with('%');
  if (per_cent) number.remove_suffix(1);
  const auto value = Decimal::parse(number);
  if (!value)
    return usage_error(
        fmt::format("--{} takes a share such as 0.05 or 5%, not {}.", option, in_quotes(text)));
  if (!per_cent && value->units() > Decimal::kScale)
    return usage_error(fmt::format("--{} {}: a number above 1 needs a per cent sign. Write {}.", option, text,
                                   both_ways(*value)));
  const std::int64_t share = per_cent ? value->units() : value->units() * 100;
  if (share < lowest || share > highest)
    return usage_error(fmt::format("--{} takes a share from {} to {}, such as 0.05 or 5%, not {}.", option,
                                   per_cent_of(lowest), per_cent_of(highest), in_quotes(text)));
  return share;
}

}  // namespace pear::analysis
