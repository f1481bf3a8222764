#include "expression/evaluate.hpp"

#include <algorithm>
#include <optional>
#include <utility>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "expression/functions.hpp"

namespace pear {
namespace {

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

template <class T>
void read_numbers(Values& into, const ViewColumn& column, const std::vector<T>& array, T empty,
                  std::size_t begin) {
  for (std::size_t i = 0; i < into.size(); ++i) {
    const std::uint32_t member = column.member(begin + i);
    if (member == kNoMember || array[member] == empty) {
      into.states[i] = ValueState::empty;
    } else {
      into.numbers[i] = array[member];
    }
  }
}

Values read_column(const ViewColumn& column, ValueType type, std::size_t begin, std::size_t end) {
  Values values = blank(type, end - begin);
  if (const auto* text = std::get_if<TextValues>(column.values)) {
    for (std::size_t i = 0; i < values.size(); ++i) {
      const std::uint32_t member = column.member(begin + i);
      const std::uint32_t code = member == kNoMember ? kEmptyCode : text->codes[member];
      if (code == kEmptyCode) {
        values.states[i] = ValueState::empty;
      } else {
        values.texts[i] = text->dictionary[code];
      }
    }
  } else if (const auto* decimal = std::get_if<DecimalValues>(column.values)) {
    read_numbers(values, column, decimal->units, kEmptyUnits, begin);
  } else if (const auto* date = std::get_if<DateValues>(column.values)) {
    read_numbers(values, column, date->days, kEmptyDays, begin);
  } else if (const auto* time = std::get_if<TimeValues>(column.values)) {
    read_numbers(values, column, time->seconds, Moment::kNoTime, begin);
  } else {
    constexpr std::uint8_t kNoFlag = 255;
    read_numbers(values, column, std::get<FlagValues>(*column.values).flags, kNoFlag, begin);
  }
  return values;
}

Values literal(const Node& node, std::size_t rows) {
  Values values = blank(node.type, rows);
  if (node.op == Op::null_literal) {
    std::fill(values.states.begin(), values.states.end(), ValueState::empty);
  } else if (node.type == ValueType::text) {
    std::fill(values.texts.begin(), values.texts.end(), std::string_view(node.text));
  } else {
    std::fill(values.numbers.begin(), values.numbers.end(), node.number);
  }
  return values;
}

ValueState worse(ValueState a, ValueState b) { return std::max(a, b); }

/// result[i] = op(left[i], right[i]) where both are filled; op says false for a fault.
template <class Operate>
Values combined(ValueType type, const Values& left, const Values& right, Operate operate) {
  Values result = blank(type, left.size());
  for (std::size_t i = 0; i < result.size(); ++i) {
    result.states[i] = worse(left.states[i], right.states[i]);
    if (result.states[i] == ValueState::filled && !operate(i, result)) result.states[i] = ValueState::fault;
  }
  return result;
}

/// a / b to four places, half away from zero.
std::optional<Decimal> divided(std::int64_t a, std::int64_t b) {
  if (b == 0) return std::nullopt;
  const Int128 scaled = static_cast<Int128>(a) * Decimal::kScale * 2;
  const Int128 quotient = scaled / b;
  const Int128 rounded = (quotient + (quotient < 0 ? -1 : 1)) / 2;
  if (rounded > INT64_MAX || rounded <= INT64_MIN) return std::nullopt;
  return Decimal::from_units(static_cast<std::int64_t>(rounded));
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
      return divided(a.units(), b.units());
  }
}

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

/// AND and OR by SQL's three truth values: one operand that decides makes up for the other.
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

/// Takes row i's value from `from`.
void take(Values& into, std::size_t i, const Values& from) {
  into.states[i] = from.type == ValueType::null ? ValueState::empty : from.states[i];
  if (from.type == ValueType::null) return;
  if (into.type == ValueType::text) {
    into.texts[i] = from.texts[i];
  } else {
    into.numbers[i] = from.numbers[i];
  }
}

/// One block of one evaluation; what it makes of texts goes into one arena.
class Block {
 public:
  Block(const RowView& view, std::size_t begin, std::size_t end, TextArena& arena)
      : view_(view), begin_(begin), end_(end), arena_(arena) {}

  Values of(const Node& node) {
    switch (node.op) {
      case Op::column:
        return read_column(view_.columns[node.column], node.type, begin_, end_);
      case Op::null_literal:
      case Op::text_literal:
      case Op::number_literal:
      case Op::date_literal:
      case Op::time_literal:
      case Op::truth_literal:
      case Op::days_literal:
        return literal(node, end_ - begin_);
      case Op::add:
      case Op::subtract:
      case Op::multiply:
      case Op::divide:
        return arithmetic(node, of(node.args[0]), of(node.args[1]));
      case Op::equal:
      case Op::not_equal:
      case Op::less:
      case Op::less_or_equal:
      case Op::greater:
      case Op::greater_or_equal:
        return comparison(node.op, of(node.args[0]), of(node.args[1]));
      case Op::both:
      case Op::either:
        return truth_of_all(node);
      case Op::negation:
        return negation(of(node.args[0]));
      case Op::is_null:
        return is_null(of(node.args[0]));
      case Op::in_list:
        return in_list(node);
      case Op::case_when:
        return case_when(node);
      case Op::coalesce:
        return coalesce(node);
      case Op::null_if:
        return null_if(node);
      default:
        return function(node);
    }
  }

 private:
  Values truth_of_all(const Node& node) {
    Values result = as_truth(of(node.args[0]));
    for (std::size_t i = 1; i < node.args.size(); ++i)
      result = joined(node.op == Op::both, std::move(result), as_truth(of(node.args[i])));
    return result;
  }

  /// The bare word NULL is an unknown truth.
  static Values as_truth(Values values) {
    if (values.type != ValueType::null) return values;
    values.type = ValueType::truth;
    values.numbers.resize(values.size());
    return values;
  }

  Values in_list(const Node& node) {
    const Values left = of(node.args[0]);
    Values result = comparison(Op::equal, left, of(node.args[1]));
    for (std::size_t i = 2; i < node.args.size(); ++i)
      result = joined(false, std::move(result), comparison(Op::equal, left, of(node.args[i])));
    return result;
  }

  Values case_when(const Node& node) {
    Values result = of(node.args.back());
    if (result.type == ValueType::null) result = all_empty(node.type);
    std::vector<std::uint8_t> decided(result.size(), 0);
    for (std::size_t at = 0; at + 1 < node.args.size(); at += 2) {
      const Values condition = as_truth(of(node.args[at]));
      const Values value = of(node.args[at + 1]);
      for (std::size_t i = 0; i < result.size(); ++i) {
        if (decided[i] != 0) continue;
        const bool fault = condition.states[i] == ValueState::fault;
        if (!fault && !condition.is_true(i)) continue;
        decided[i] = 1;
        take(result, i, value);
        if (fault) result.states[i] = ValueState::fault;
      }
    }
    return result;
  }

  Values coalesce(const Node& node) {
    Values result = all_empty(node.type);
    for (const Node& arg : node.args) {
      const Values value = of(arg);
      for (std::size_t i = 0; i < result.size(); ++i) {
        if (result.states[i] == ValueState::empty) take(result, i, value);
      }
    }
    return result;
  }

  Values null_if(const Node& node) {
    Values result = of(node.args[0]);
    const Values same = comparison(Op::equal, result, of(node.args[1]));
    for (std::size_t i = 0; i < result.size(); ++i) {
      if (same.is_true(i)) result.states[i] = ValueState::empty;
    }
    return result;
  }

  Values all_empty(ValueType type) const {
    Values values = blank(type, end_ - begin_);
    std::fill(values.states.begin(), values.states.end(), ValueState::empty);
    return values;
  }

  /// Functions of one row's values: apply(row, result) is asked where all arguments are filled.
  Values function(const Node& node) {
    std::vector<Values> args;
    for (const Node& arg : node.args) args.push_back(of(arg));
    Values result = blank(node.type, end_ - begin_);
    for (std::size_t i = 0; i < result.size(); ++i) {
      for (const Values& arg : args)
        result.states[i] =
            worse(result.states[i], arg.type == ValueType::null ? ValueState::empty : arg.states[i]);
      if (result.states[i] == ValueState::filled && !apply_function(node.op, args, i, result, arena_))
        result.states[i] = ValueState::fault;
    }
    return result;
  }

  const RowView& view_;
  std::size_t begin_;
  std::size_t end_;
  TextArena& arena_;
};

}  // namespace

Values evaluate_node(const Node& node, const RowView& view, std::size_t begin, std::size_t end) {
  const auto arena = std::make_shared<TextArena>();
  Values values = Block(view, begin, end, *arena).of(node);
  values.made = arena;
  return values;
}

}  // namespace pear
