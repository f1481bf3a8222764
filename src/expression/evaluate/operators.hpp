// SQL's operators, over blocks of values.
#pragma once

#include <optional>

#include "base/decimal.hpp"
#include "expression/rows/values.hpp"
#include "expression/syntax/node.hpp"

namespace pear::expression {

/// Values of a type, all filled, to be overwritten.
[[nodiscard]] Values blank(ValueType type, std::size_t rows);

/// The state of a result, from the states of its two operands.
[[nodiscard]] ValueState worse(ValueState a, ValueState b);

/// a / b to four places, rounded half away from zero; nothing if b is 0 or the quotient out of range.
[[nodiscard]] std::optional<Decimal> quotient(Decimal a, Decimal b);

/// The operators +, -, * and / of numbers, + and - of dates, according to the node.
[[nodiscard]] Values arithmetic(const Node& node, const Values& left, const Values& right);
[[nodiscard]] Values comparison(Op op, const Values& left, const Values& right);

/// AND and OR with SQL's three truth values: one operand may decide although the other is unknown or at
/// fault.
[[nodiscard]] Values joined(bool is_and, Values left, const Values& right);
[[nodiscard]] Values negation(Values values);
[[nodiscard]] Values is_null(const Values& of);

/// Copies row i's value from `from`.
void take(Values& into, std::size_t i, const Values& from);

}  // namespace pear::expression
