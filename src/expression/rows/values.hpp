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

/// The state of a value. A `fault` (a number out of range, a division by zero) only counts if it reaches the
/// result: CASE may exclude it. The order matters: of two operands the higher state wins.
enum class ValueState : std::uint8_t { filled, empty, fault };

/// A deque, so that no text moves when another is added.
using TextArena = std::deque<std::string>;

/// Parallel arrays of one block. Texts are views into a column, a literal, or `made`.
struct Values {
  ValueType type = ValueType::null;
  std::vector<ValueState> states;
  std::vector<std::int64_t> numbers;      ///< all types but text: units of Decimal, days, seconds, 0 or 1
  std::vector<std::string_view> texts;    ///< text only
  std::shared_ptr<const TextArena> made;  ///< owns the texts that the expression created

  [[nodiscard]] std::size_t size() const { return states.size(); }
  [[nodiscard]] bool is_true(std::size_t row) const {
    return states[row] == ValueState::filled && numbers[row] != 0;
  }
};

/// The value in readable form; empty for an empty one.
[[nodiscard]] std::string value_text(const Values& values, std::size_t row);

}  // namespace pear::expression
