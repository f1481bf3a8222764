// Fixed-point decimals: money and quantities, exact.
#pragma once

#include <compare>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

#include <tl/expected.hpp>

namespace pear {

__extension__ using Int128 = __int128;

/// Why a text is not a Decimal.
enum class DecimalFault { empty, not_a_number, too_many_places, too_large };

/// A number with four decimal places in a 64-bit integer: from -922,337,203,685,477.5807 to the same above
/// zero. It never rounds by itself, and arithmetic reports an overflow.
class Decimal {
 public:
  static constexpr std::int64_t kScale = 10'000;  ///< units in 1
  static constexpr int kPlaces = 4;

  constexpr Decimal() = default;
  static constexpr Decimal from_units(std::int64_t units) {
    Decimal decimal;
    decimal.units_ = units;
    return decimal;
  }

  /// Reads an optional sign, digits, and an optional point with digits: "12", "-0.5", "+3.10", ".5".
  /// Places after the fourth must be zero. No spaces, exponents or thousands separators.
  [[nodiscard]] static tl::expected<Decimal, DecimalFault> parse(std::string_view text);

  /// The same, but rounds to four places, half away from zero.
  [[nodiscard]] static tl::expected<Decimal, DecimalFault> parse_rounded(std::string_view text);

  [[nodiscard]] constexpr std::int64_t units() const { return units_; }

  /// The shortest text that parses back to the same value, with at least `places` decimals:
  /// 12.5 is "12.5", and "12.50" with two places.
  [[nodiscard]] std::string to_text(int places = 0) const;
  /// The same with at most four places, written to `to`, which needs room for kLongestText. Returns its end.
  char* write_text(char* to, int places = 0) const;
  static constexpr std::size_t kLongestText = 24;

  constexpr auto operator<=>(const Decimal&) const = default;

 private:
  std::int64_t units_ = 0;
};

/// Sums and differences; nothing if the result is out of range.
[[nodiscard]] std::optional<Decimal> checked_add(Decimal a, Decimal b);
[[nodiscard]] std::optional<Decimal> checked_subtract(Decimal a, Decimal b);

/// The product rounded half away from zero to four places; nothing if it is out of range.
[[nodiscard]] std::optional<Decimal> checked_multiply(Decimal a, Decimal b);

/// a / b rounded half away from zero; b > 0.
[[nodiscard]] constexpr Int128 divided_evenly(Int128 a, std::int64_t b) {
  const Int128 doubled = 2 * a;
  return (doubled < 0 ? doubled - b : doubled + b) / (2 * static_cast<Int128>(b));
}

/// The sign of a x b - c x d; factors must not be negative. Exact, but for products beyond 128 bits.
[[nodiscard]] int compare_products(Int128 a, Int128 b, Int128 c, Int128 d);

/// The price per piece: amount / quantity, rounded half away from zero to four places. Nothing if the
/// quantity is not above 0 or the price is out of range.
[[nodiscard]] std::optional<Decimal> price_of_piece(Decimal amount, Decimal quantity);

/// An exact running sum. It cannot overflow within 2^63 additions; total() checks once, at the end, whether
/// the sum is in the range of Decimal.
class DecimalSum {
 public:
  void add(Decimal value) { units_ += value.units(); }
  void add(const DecimalSum& other) { units_ += other.units_; }
  /// The total; nothing if it is out of the range of Decimal.
  [[nodiscard]] std::optional<Decimal> total() const;
  /// The total divided by a count of 1 or more, rounded half away from zero; nothing if it is out of range.
  [[nodiscard]] std::optional<Decimal> mean(std::uint64_t count) const;
  /// The total in currency units as a floating-point number, for messages about totals out of range.
  [[nodiscard]] double approximate() const;
  bool operator==(const DecimalSum&) const = default;

 private:
  Int128 units_ = 0;
};

/// The error as part of a sentence: "is not a number".
[[nodiscard]] std::string_view describe(DecimalFault fault);

}  // namespace pear
