#include "analysis/wording.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::analysis {

std::string noun_of(std::string_view column) {
  std::string noun(column.ends_with("_id") && column.size() > 3 ? column.substr(0, column.size() - 3)
                                                                : column);
  std::replace(noun.begin(), noun.end(), '_', ' ');
  return noun;
}

std::string plural_of(const std::string& noun) {
  const auto ends_with = [&](std::string_view end) { return noun.ends_with(end); };
  const bool vowel_before_y = ends_with("ay") || ends_with("ey") || ends_with("oy") || ends_with("uy");
  if (ends_with("y") && !vowel_before_y) return noun.substr(0, noun.size() - 1) + "ies";
  if (ends_with("s") || ends_with("x") || ends_with("ch") || ends_with("sh")) return noun + "es";
  return noun + "s";
}

std::string number(std::uint64_t count) { return with_thousands(static_cast<std::int64_t>(count)); }

std::string per_cent(std::uint64_t part, std::uint64_t whole) {
  return fmt::format("{:.1f}%",
                     whole == 0 ? 0.0 : 100 * static_cast<double>(part) / static_cast<double>(whole));
}

std::string per_cent(double share) { return fmt::format("{:.1f}%", 100 * share); }

std::string days_text(std::int64_t days) { return counted(static_cast<std::uint64_t>(days), "day"); }

std::string rounded_money_text(std::int64_t units, std::string_view currency) {
  const std::string text = with_thousands(Decimal::from_units(units), 2);
  return currency.empty() ? text : fmt::format("{} {}", text, currency);
}

std::string money_text(const DecimalSum& sum, std::string_view currency) {
  const auto total = sum.total();
  const std::string text = total ? with_thousands(*total) : fmt::format("{:.0f}", sum.approximate());
  return currency.empty() ? text : fmt::format("{} {}", text, currency);
}

}  // namespace pear::analysis
