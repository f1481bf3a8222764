// The values of an expression for a block of rows.
#pragma once

#include <cstdint>
#include <deque>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "expression/syntax/node.hpp"

namespace pear::expression {

/// What stands in a row. A `fault` (a number out of range, a division by zero) only counts where it reaches
/// the result: CASE may guard against it. The order matters: of two operands the higher state wins.
enum class ValueState : std::uint8_t { filled, empty, fault };

/// A deque, so that no text moves when another comes.
using TextArena = std::deque<std::string>;

/// Parallel arrays of one block. Texts are views into a column, a literal, or `made`.
struct Values {
  ValueType type = ValueType::null;
  std::vector<ValueState> states;
  std::vector<std::int64_t> numbers;      ///< all types but text: units of Decimal, days, seconds, 0 or 1
  std::vector<std::string_view> texts;    ///< of text alone
  std::shared_ptr<const TextArena> made;  ///< holds the texts that the expression made

  [[nodiscard]] std::size_t size() const { return states.size(); }
  [[nodiscard]] bool is_true(std::size_t row) const {
    return states[row] == ValueState::filled && numbers[row] != 0;
  }
};

}  // namespace pear::expression
