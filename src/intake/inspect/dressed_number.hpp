// Numbers with something around them: currencies, units, brackets, signs after the digits.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace pear::intake {

/// What is around the digits of a number.
struct Dressing {
  std::vector<std::string> words;  ///< currencies and units
  std::string thousands;           ///< " " or "'", if they separate thousands
  bool brackets = false, trailing_minus = false, percent = false;
};

struct DressedNumber {
  std::string number;  ///< digits, points and commas, with a minus in front if it is below zero
  Dressing dressing;
};

/// Takes a text such as "€ 1 234,50", "(12.00)", "12.00-", "10%" or "3 pcs" apart. Nothing for anything else:
/// only a currency may be in front of the digits, so "A17" is an id, and "Sock yarn 50" is a name.
[[nodiscard]] std::optional<DressedNumber> undress_number(std::string_view text);

}  // namespace pear::intake
