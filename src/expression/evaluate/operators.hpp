// SQL's operators, over blocks of values.
#pragma once

#include "expression/rows/values.hpp"
#include "expression/syntax/node.hpp"

namespace pear::expression {

/// Values of a type, all filled, to be put in place.
[[nodiscard]] Values blank(ValueType type, std::size_t rows);

/// Of two states of operands, the one that the result has.
[[nodiscard]] ValueState worse(ValueState a, ValueState b);

/// The operators +, -, * and / of numbers, + and - of dates, as the node says.
[[nodiscard]] Values arithmetic(const Node& node, const Values& left, const Values& right);
[[nodiscard]] Values comparison(Op op, const Values& left, const Values& right);

/// AND and OR by SQL's three truth values: one operand that decides makes up for the other.
[[nodiscard]] Values joined(bool is_and, Values left, const Values& right);
[[nodiscard]] Values negation(Values values);
[[nodiscard]] Values is_null(const Values& of);

/// Takes row i's value from `from`.
void take(Values& into, std::size_t i, const Values& from);

}  // namespace pear::expression
