#include "expression/evaluate/operators.hpp"

#include <algorithm>
#include <optional>
#include <utility>

#include "base/decimal.hpp"

namespace pear::expression {

Values blank(ValueType type, std::size_t rows) {
  Values values;
  values.type = type;
  values.states.assign(rows, ValueState::filled);
  if (type == ValueType::text) {
    values.texts.resize(rows);
  } else {
    values.numbers.resize(rows);
  }
  return values;
}

ValueState worse(ValueState a, ValueState b) { return std::max(a, b); }

std::optional<Decimal> quotient(Decimal a, Decimal b) {
  if (b.units() == 0) return std::nullopt;
  const Int128 scaled = static_cast<Int128>(a.units()) * Decimal::kScale * 2;
  const Int128 quotient = scaled / b.units();
  const Int128 rounded = (quotient + (quotient < 0 ? -1 : 1)) / 2;
  if (rounded > INT64_MAX || rounded <= INT64_MIN) return std::nullopt;
  return Decimal::from_units(static_cast<std::int64_t>(rounded));
}

namespace {

/// result[i] = op(left[i], right[i]) where both are filled; op returns false for a fault.
template <class Operate>
Values combined(ValueType type, const Values& left, const Values& right, Operate operate) {
  Values result = blank(type, left.size());
  for (std::size_t i = 0; i < result.size(); ++i) {
    result.states[i] = worse(left.states[i], right.states[i]);
    if (result.states[i] == ValueState::filled && !operate(i, result)) result.states[i] = ValueState::fault;
  }
  return result;
}

std::optional<Decimal> calculated(Op op, Decimal a, Decimal b) {
  switch (op) {
    case Op::add:
      return checked_add(a, b);
    case Op::subtract:
      return checked_subtract(a, b);
    case Op::multiply:
      return checked_multiply(a, b);
    default:
      return quotient(a, b);
  }
}

bool holds(Op op, int order) {
  switch (op) {
    case Op::equal:
      return order == 0;
    case Op::not_equal:
      return order != 0;
    case Op::less:
      return order < 0;
    case Op::less_or_equal:
      return order <= 0;
    case Op::greater:
      return order > 0;
    default:
      return order >= 0;
  }
}

/// Texts compare by code point (SQL's collation UCS_BASIC).
int order_of(const Values& left, const Values& right, std::size_t i) {
  if (left.type == ValueType::text) return left.texts[i].compare(right.texts[i]);
  return left.numbers[i] < right.numbers[i] ? -1 : left.numbers[i] > right.numbers[i] ? 1 : 0;
}

}  // namespace

Values arithmetic(const Node& node, const Values& left, const Values& right) {
  const bool of_dates = left.type == ValueType::date;
  return combined(node.type, left, right, [&](std::size_t i, Values& result) {
    const std::int64_t a = left.numbers[i];
    const std::int64_t b = right.numbers[i];
    if (of_dates) {
      const std::int64_t days = node.op == Op::add ? a + b : a - b;
      result.numbers[i] = node.type == ValueType::date ? days : days * Decimal::kScale;
      constexpr std::int64_t kFirstDay = -719'528, kLastDay = 2'932'896;  // of the years 0 to 9999
      return node.type != ValueType::date || (days >= kFirstDay && days <= kLastDay);
    }
    const auto value = calculated(node.op, Decimal::from_units(a), Decimal::from_units(b));
    if (value) result.numbers[i] = value->units();
    return value.has_value();
  });
}

Values comparison(Op op, const Values& left, const Values& right) {
  if (left.type == ValueType::null || right.type == ValueType::null) {
    Values unknown = blank(ValueType::truth, left.size());
    std::fill(unknown.states.begin(), unknown.states.end(), ValueState::empty);
    return unknown;
  }
  return combined(ValueType::truth, left, right, [&](std::size_t i, Values& result) {
    result.numbers[i] = holds(op, order_of(left, right, i)) ? 1 : 0;
    return true;
  });
}

Values joined(bool is_and, Values left, const Values& right) {
  const std::int64_t deciding = is_and ? 0 : 1;
  for (std::size_t i = 0; i < left.size(); ++i) {
    const bool left_decides = left.states[i] == ValueState::filled && left.numbers[i] == deciding;
    const bool right_decides = right.states[i] == ValueState::filled && right.numbers[i] == deciding;
    if (left_decides || right_decides) {
      left.states[i] = ValueState::filled;
      left.numbers[i] = deciding;
    } else {
      left.states[i] = worse(left.states[i], right.states[i]);
    }
  }
  return left;
}

Values negation(Values values) {
  for (std::int64_t& truth : values.numbers) truth = truth == 0 ? 1 : 0;
  return values;
}

Values is_null(const Values& of) {
  Values result = blank(ValueType::truth, of.size());
  for (std::size_t i = 0; i < result.size(); ++i) {
    result.numbers[i] = of.states[i] == ValueState::empty ? 1 : 0;
    if (of.states[i] == ValueState::fault) result.states[i] = ValueState::fault;
  }
  return result;
}

void take(Values& into, std::size_t i, const Values& from) {
  into.states[i] = from.type == ValueType::null ? ValueState::empty : from.states[i];
  if (from.type == ValueType::null) return;
  if (into.type == ValueType::text) {
    into.texts[i] = from.texts[i];
  } else {
    into.numbers[i] = from.numbers[i];
  }
}

}  // namespace pear::expression
