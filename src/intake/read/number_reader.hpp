// Numbers as people write them.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include <tl/expected.hpp>

#include "base/decimal.hpp"
#include "intake/plan/intake_plan.hpp"

namespace pear::intake {

/// Bytes of a blank at the beginning of the text: a space, a tab, or one of Unicode's spaces within numbers;
/// 0 if it does not begin with one.
[[nodiscard]] std::size_t leading_blank(std::string_view text);
/// The text without blanks at both ends.
[[nodiscard]] std::string_view without_blanks(std::string_view text);

/// Bytes of a separator of thousands at the beginning of the text; 0 if it does not begin with one. " " is
/// any blank, and "'" any apostrophe.
[[nodiscard]] std::size_t leading_separator(std::string_view text, std::string_view separator);

/// Reads numbers in the format of an intake file: "€ 1.234,50" with a decimal comma, points between thousands
/// and strip = "€" is 1234.5. Separators of thousands are optional; where they are, the groups after the
/// first have three digits, or two except the last. A sign may be on either side of a currency. For one
/// thread.
class NumberReader {
 public:
  explicit NumberReader(const NumberFormat& format) : format_(format), is_plain_(format.is_plain()) {}

  [[nodiscard]] tl::expected<Decimal, DecimalFault> read(std::string_view text);
  /// The sign of a currency that the last text contained, as in `strip`; empty if it had none.
  [[nodiscard]] std::string_view currency() const { return currency_; }

 private:
  /// Takes one sign, bracket, currency or unit off either end of the text; false if there is none.
  bool undress(std::string_view& text);
  bool take_sign(std::string_view& text);
  bool take_words(std::string_view& text);
  /// With a decimal point and without separators of thousands; nothing if they are in the wrong places.
  [[nodiscard]] std::optional<std::string> plain(std::string_view text) const;

  const NumberFormat& format_;
  bool is_plain_;
  std::string_view currency_;
  int signs_ = 0;  // of the last text
  bool is_negative_ = false, is_percent_ = false;
};

}  // namespace pear::intake
