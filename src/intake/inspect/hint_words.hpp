// Words in values that call for a decision of the user: credit notes, fees, test customers.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace pear::intake {

enum class Hint : std::uint8_t { returned, fee, test };

/// The different values with such a word.
struct HintedValues {
  std::vector<std::string> values;  ///< the first ones
  std::uint64_t count = 0;

  static constexpr std::size_t kMost = 12;
  void add(std::string_view value) {
    if (values.size() < kMost) values.emplace_back(value);
    ++count;
  }
};

/// Whether the text contains a word, in one of ten languages, for returned goods ("Credit note"), for
/// something that is charged but no product ("Freight"), or for a customer who is none ("Test account").
[[nodiscard]] std::optional<Hint> hint_in(std::string_view text);

}  // namespace pear::intake
