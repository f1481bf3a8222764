#include "base/decimal.hpp"

#include <array>
#include <charconv>
#include <limits>

#include "base/ascii.hpp"

namespace pear {
namespace {

constexpr std::int64_t kMax = std::numeric_limits<std::int64_t>::max();

/// The lowest int64 is kept out of the range, so that every value has its negative (and columns have a mark
/// for "empty").
std::optional<Decimal> in_range(Int128 units) {
  if (units > kMax || units < -Int128{kMax}) return std::nullopt;
  return Decimal::from_units(static_cast<std::int64_t>(units));
}

/// 10^places, for the numbers of places that are allowed.
constexpr std::array<std::int64_t, Decimal::kPlaces + 1> kScaleAfter = {10'000, 1'000, 100, 10, 1};

/// A fast path: most numbers are short and plain ("3", "12.50"). Returns nothing if the text is not so
/// simple.
std::optional<std::int64_t> parse_short(std::string_view text) {
  constexpr std::size_t kCannotOverflow = 12;
  if (text.empty() || text.size() > kCannotOverflow) return std::nullopt;
  std::int64_t units = 0;
  std::size_t at = 0;
  for (; at < text.size() && is_digit(text[at]); ++at) units = units * 10 + (text[at] - '0');
  if (at == text.size()) return units * Decimal::kScale;
  const std::size_t places = text.size() - at - 1;
  if (at == 0 || text[at] != '.' || places > Decimal::kPlaces) return std::nullopt;
  for (++at; at < text.size(); ++at) {
    if (!is_digit(text[at])) return std::nullopt;
    units = units * 10 + (text[at] - '0');
  }
  return units * kScaleAfter[places];
}

}  // namespace

tl::expected<Decimal, DecimalFault> Decimal::parse(std::string_view text) {
  if (const auto units = parse_short(text)) return from_units(*units);
  if (text.empty()) return tl::unexpected(DecimalFault::empty);
  const bool negative = text.front() == '-';
  std::size_t at = negative || text.front() == '+' ? 1 : 0;
  std::int64_t units = 0;
  int places = -1;  // decimals seen; -1 before the point
  bool any_digit = false;
  bool too_large = false;
  bool too_many_places = false;
  for (; at < text.size(); ++at) {
    const char c = text[at];
    if (c == '.' && places < 0) {
      places = 0;
      continue;
    }
    if (!is_digit(c)) return tl::unexpected(DecimalFault::not_a_number);
    any_digit = true;
    if (places >= kPlaces) {
      too_many_places |= c != '0';
      continue;
    }
    if (places >= 0) ++places;
    too_large |= __builtin_mul_overflow(units, 10, &units);
    too_large |= __builtin_add_overflow(units, c - '0', &units);
  }
  if (!any_digit) return tl::unexpected(DecimalFault::not_a_number);
  too_large |=
      __builtin_mul_overflow(units, kScaleAfter[static_cast<std::size_t>(places < 0 ? 0 : places)], &units);
  if (too_large) return tl::unexpected(DecimalFault::too_large);
  if (too_many_places) return tl::unexpected(DecimalFault::too_many_places);
  return from_units(negative ? -units : units);
}

tl::expected<Decimal, DecimalFault> Decimal::parse_rounded(std::string_view text) {
  const auto exact = parse(text);
  if (exact || exact.error() != DecimalFault::too_many_places) return exact;
  const std::size_t end = text.find('.') + 1 + kPlaces;
  const auto cut = parse(text.substr(0, end));
  if (!cut || text[end] < '5') return cut;
  const auto rounded = in_range(Int128{cut->units()} + (text.front() == '-' ? -1 : 1));
  if (!rounded) return tl::unexpected(DecimalFault::too_large);
  return *rounded;
}

std::string Decimal::to_text(int places) const {
  std::array<char, kLongestText> text;
  return {text.data(), write_text(text.data(), places)};
}

char* Decimal::write_text(char* to, int places) const {
  const auto magnitude =
      units_ < 0 ? 0 - static_cast<std::uint64_t>(units_) : static_cast<std::uint64_t>(units_);
  if (units_ < 0) *to++ = '-';
  to = std::to_chars(to, to + kLongestText - 2 - kPlaces, magnitude / kScale).ptr;
  auto rest = static_cast<unsigned>(magnitude % kScale);
  if (rest == 0 && places <= 0) return to;
  *to = '.';
  for (int place = kPlaces; place > 0; --place, rest /= 10) to[place] = static_cast<char>('0' + rest % 10);
  int size = kPlaces;
  while (size > places && to[size] == '0') --size;
  return to + size + 1;
}

std::optional<Decimal> checked_add(Decimal a, Decimal b) { return in_range(Int128{a.units()} + b.units()); }

std::optional<Decimal> checked_subtract(Decimal a, Decimal b) {
  return in_range(Int128{a.units()} - b.units());
}

std::optional<Decimal> checked_multiply(Decimal a, Decimal b) {
  const Int128 product = Int128{a.units()} * b.units();
  const Int128 half = product < 0 ? -Decimal::kScale / 2 : Decimal::kScale / 2;
  return in_range((product + half) / Decimal::kScale);
}

int compare_products(Int128 a, Int128 b, Int128 c, Int128 d) {
  Int128 left = 0, right = 0;
  if (__builtin_mul_overflow(a, b, &left) || __builtin_mul_overflow(c, d, &right)) {
    const double difference =
        static_cast<double>(a) * static_cast<double>(b) - static_cast<double>(c) * static_cast<double>(d);
    return difference < 0 ? -1 : difference > 0 ? 1 : 0;
  }
  return left < right ? -1 : left > right ? 1 : 0;
}

std::optional<Decimal> price_of_piece(Decimal amount, Decimal quantity) {
  if (quantity.units() <= 0) return std::nullopt;
  constexpr std::int64_t kQuick = INT64_MAX / Decimal::kScale / 2;  // 64 bits are enough up to here
  if (amount.units() >= 0 && amount.units() <= kQuick && quantity.units() <= kQuick)
    return Decimal::from_units((amount.units() * Decimal::kScale + quantity.units() / 2) / quantity.units());
  return in_range(divided_evenly(Int128{amount.units()} * Decimal::kScale, quantity.units()));
}

std::optional<Decimal> DecimalSum::total() const { return in_range(units_); }

std::optional<Decimal> DecimalSum::mean(std::uint64_t count) const {
  return in_range(divided_evenly(units_, static_cast<std::int64_t>(count)));
}

double DecimalSum::approximate() const {
  return static_cast<double>(units_) / static_cast<double>(Decimal::kScale);
}

std::string_view describe(DecimalFault fault) {
  switch (fault) {
    case DecimalFault::empty:
      return "is empty";
    case DecimalFault::not_a_number:
      return "is not a number";
    case DecimalFault::too_many_places:
      return "has more than 4 decimal places";
    case DecimalFault::too_large:
      return "is too large";
  }
  return "is not a number";
}

}  // namespace pear
