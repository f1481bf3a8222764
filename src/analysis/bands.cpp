#include "analysis/bands.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/decimal.hpp"
#include "base/text.hpp"
#include "statistics/quantile.hpp"

namespace pear::analysis {
namespace {

tl::unexpected<Error> not_a_band(std::string_view text) {
  return usage_error(fmt::format(
      "--bands takes numbers and ranges with commas between them, such as 1,2-5,6-10,11+, not {}.",
      in_quotes(text)));
}

OrError<ValueBand> parse_band(std::string_view text) {
  const std::string label(text);
  const bool open = text.ends_with('+');
  if (open) text.remove_suffix(1);
  const std::size_t dash = text.find('-', 1);  // a hyphen at the beginning is a minus sign
  if (open && dash != std::string_view::npos) return not_a_band(label);
  const auto from = Decimal::parse(text.substr(0, dash));
  const auto to = dash == std::string_view::npos ? from : Decimal::parse(text.substr(dash + 1));
  if (!from || !to) return not_a_band(label);
  if (*to < *from) return usage_error(fmt::format("--bands: {} ends before it begins.", in_quotes(label)));
  return ValueBand{label, from->units(), open ? ValueBand::kOpen : to->units(), false};
}

/// The nearest of 1, 2, 2.5, 5 times a power of ten, of at least one unit.
std::int64_t round_number(std::int64_t units) {
  std::int64_t power = 1;
  while (power <= units / 10) power *= 10;
  std::int64_t best = power;
  for (const std::int64_t tenths : {20, 25, 50, 100}) {
    const std::int64_t candidate = power * tenths / 10;
    if (std::abs(candidate - units) < std::abs(best - units)) best = candidate;
  }
  return best;
}

}  // namespace

OrError<std::vector<ValueBand>> parse_bands(std::string_view text) {
  std::vector<ValueBand> bands;
  for (const std::string& part : comma_separated(text)) {
    PEAR_ASSIGN(ValueBand band, parse_band(part));
    if (!bands.empty()) {
      ValueBand& before = bands.back();
      before.ends_before = before.to == band.from && before.from < before.to;
      if (before.to > band.from || (before.to == band.from && !before.ends_before))
        return usage_error(
            fmt::format("--bands: {} and {} overlap or are in the wrong order. Write the bands in rising "
                        "order, without overlaps.",
                        in_quotes(before.label), in_quotes(band.label)));
    }
    bands.push_back(std::move(band));
  }
  return bands;
}

std::optional<std::uint32_t> band_of(const std::vector<ValueBand>& bands, std::int64_t units) {
  const auto after =
      std::upper_bound(bands.begin(), bands.end(), units,
                       [](std::int64_t value, const ValueBand& band) { return value < band.from; });
  if (after == bands.begin()) return std::nullopt;
  const ValueBand& band = *(after - 1);
  if (band.to != ValueBand::kOpen && (units > band.to || (units == band.to && band.ends_before)))
    return std::nullopt;
  return static_cast<std::uint32_t>(after - bands.begin() - 1);
}

std::string suggested_bands(std::vector<std::int64_t>& units) {
  std::vector<std::int64_t> bounds = {0};
  for (const statistics::Fraction fraction :
       {statistics::kQuarter, statistics::kHalf, statistics::kThreeQuarters, statistics::Fraction{19, 20}}) {
    const std::int64_t bound =
        round_number(std::max<std::int64_t>(1, statistics::quantile_of(units, fraction).value_or(1)));
    if (bound > bounds.back()) bounds.push_back(bound);
  }
  std::string text;
  for (std::size_t i = 0; i < bounds.size(); ++i) {
    const std::string from = Decimal::from_units(bounds[i]).to_text();
    text += i + 1 == bounds.size()
                ? from + "+"
                : fmt::format("{}-{},", from, Decimal::from_units(bounds[i + 1]).to_text());
  }
  return text;
}

}  // namespace pear::analysis
