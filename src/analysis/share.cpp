#include "analysis/share.hpp"

#include "base/decimal.hpp"

namespace pear::analysis {

namespace {

/// Whether the text ended with the sign, which is removed.
bool cut_per_cent(std::string_view& text) {
  if (!text.ends_with('%')) return false;
  text.remove_suffix(1);
  return true;
}

}  // namespace

std::optional<double> parse_share(std::string_view text) {
  const bool per_cent = cut_per_cent(text);
  const auto value = Decimal::parse(text);
  if (!value) return std::nullopt;
  return static_cast<double>(value->units()) / Decimal::kScale / (per_cent ? 100 : 1);
}

std::optional<std::int64_t> parse_per_cent(std::string_view text) {
  cut_per_cent(text);
  const auto value = Decimal::parse(text);
  if (!value) return std::nullopt;
  return value->units();
}

}  // namespace pear::analysis
