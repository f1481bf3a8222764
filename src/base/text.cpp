#include "base/text.hpp"

#include <algorithm>
#include <cstdlib>
#include <numeric>
#include <utility>

#include <absl/strings/ascii.h>
#include <absl/strings/str_split.h>
#include <fmt/format.h>

#include "base/ascii.hpp"

namespace pear {
namespace {

std::size_t edit_distance(std::string_view a, std::string_view b) {
  std::vector<std::size_t> row(b.size() + 1);
  std::iota(row.begin(), row.end(), std::size_t{0});
  for (std::size_t i = 0; i < a.size(); ++i) {
    std::size_t diagonal = std::exchange(row[0], i + 1);
    for (std::size_t j = 0; j < b.size(); ++j) {
      const std::size_t replaced = diagonal + (a[i] == b[j] ? 0 : 1);
      diagonal = std::exchange(row[j + 1], std::min({replaced, row[j] + 1, row[j + 1] + 1}));
    }
  }
  return row.back();
}

}  // namespace

std::vector<std::string> comma_separated(std::string_view text) {
  return absl::StrSplit(absl::string_view(text.data(), text.size()), ',');
}

std::string_view without_space_at_end(std::string_view text) {
  return text.substr(0, absl::StripTrailingAsciiWhitespace({text.data(), text.size()}).size());
}

std::string join(std::span<const std::string> parts, std::string_view separator) {
  return fmt::format("{}", fmt::join(parts, separator));
}

std::string snake_case(std::string_view text) {
  std::string name;
  for (const char c : text) {
    const auto byte = static_cast<unsigned char>(c);
    if (absl::ascii_isalnum(byte) || byte >= 0x80) {
      name += absl::ascii_tolower(byte);
    } else if (!name.empty() && name.back() != '_') {
      name += '_';
    }
  }
  if (!name.empty() && name.back() == '_') name.pop_back();
  return name;
}

std::optional<std::string> nearest_name(std::string_view name, std::span<const std::string> candidates) {
  const std::string wanted = snake_case(name);
  std::optional<std::string> best;
  std::size_t best_distance = 0;
  for (const std::string& candidate : candidates) {
    const std::string other = snake_case(candidate);
    const std::size_t distance = edit_distance(wanted, other);
    const std::size_t allowed = std::max<std::size_t>(1, std::max(wanted.size(), other.size()) / 3);
    if (distance > allowed || (best && distance >= best_distance)) continue;
    best = candidate;
    best_distance = distance;
  }
  return best;
}

std::string did_you_mean(std::string_view name, std::span<const std::string> candidates) {
  const auto near = nearest_name(name, candidates);
  return near ? fmt::format(" Did you mean {}?", in_quotes(*near)) : "";
}

std::string with_thousands(std::int64_t value) {
  std::string text = fmt::format("{}", value);
  const std::ptrdiff_t first = value < 0 ? 1 : 0;
  for (auto at = static_cast<std::ptrdiff_t>(text.size()) - 3; at > first; at -= 3)
    text.insert(static_cast<std::size_t>(at), 1, ',');
  return text;
}

namespace {

/// The exact text of a decimal, with thousands separators.
std::string separated(Decimal number, const std::string& exact) {
  const std::string whole = with_thousands(number.units() / Decimal::kScale);
  const bool lost_its_sign = exact.starts_with('-') && !whole.starts_with('-');
  const std::size_t point = exact.find('.');
  return (lost_its_sign ? "-" : "") + whole + (point == std::string::npos ? "" : exact.substr(point));
}

}  // namespace

std::string with_thousands(Decimal money) { return separated(money, money.to_text(2)); }

std::string with_thousands(Decimal number, int places) {
  if (places < 0) return separated(number, number.to_text());
  std::int64_t step = Decimal::kScale;
  for (int i = 0; i < places; ++i) step /= 10;
  const Int128 steps = divided_evenly(number.units(), step);
  if (places == 0) return with_thousands(static_cast<std::int64_t>(steps));
  // The largest numbers rounded up may be out of the range of Decimal, but not without their last places.
  const std::int64_t in_one = Decimal::kScale / step;
  const std::string sign = steps < 0 ? "-" : "";
  const auto magnitude = static_cast<std::int64_t>(steps < 0 ? -steps : steps);
  return fmt::format("{}{}.{:0{}}", sign, with_thousands(magnitude / in_one), magnitude % in_one, places);
}

std::string counted(std::uint64_t count, std::string_view noun, std::string_view plural) {
  const std::string number = with_thousands(static_cast<std::int64_t>(count));
  if (count == 1) return fmt::format("{} {}", number, noun);
  return plural.empty() ? fmt::format("{} {}s", number, noun) : fmt::format("{} {}", number, plural);
}

std::string in_quotes(std::string_view value) {
  constexpr std::size_t kLongest = 60;
  std::string text = "\"";
  std::size_t end = std::min(value.size(), kLongest);
  while (end < value.size() && end > 0 && (static_cast<unsigned char>(value[end]) & 0xC0U) == 0x80U) --end;
  for (const char c : value.substr(0, end)) {
    if (is_control(c)) {
      text += fmt::format("\\x{:02x}", static_cast<unsigned char>(c));
    } else {
      text += c;
    }
  }
  return text + (end < value.size() ? "...\"" : "\"");
}

}  // namespace pear
