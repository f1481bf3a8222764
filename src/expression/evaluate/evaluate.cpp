#include "expression/evaluate/evaluate.hpp"

#include <algorithm>
#include <optional>
#include <utility>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "daybook/daybook.hpp"
#include "expression/evaluate/functions.hpp"
#include "expression/evaluate/operators.hpp"

namespace pear::expression {
namespace {

template <class T>
void read_numbers(Values& into, const ViewColumn& column, const std::vector<T>& array, T empty,
                  std::size_t begin) {
  for (std::size_t i = 0; i < into.size(); ++i) {
    const std::uint32_t member = column.member(begin + i);
    if (member == daybook::kNoMember || array[member] == empty) {
      into.states[i] = ValueState::empty;
    } else {
      into.numbers[i] = array[member];
    }
  }
}

Values read_column(const ViewColumn& column, ValueType type, std::size_t begin, std::size_t end) {
  Values values = blank(type, end - begin);
  if (const auto* text = std::get_if<daybook::TextValues>(column.values)) {
    for (std::size_t i = 0; i < values.size(); ++i) {
      const std::uint32_t member = column.member(begin + i);
      const std::uint32_t code = member == daybook::kNoMember ? daybook::kEmptyCode : text->codes[member];
      if (code == daybook::kEmptyCode) {
        values.states[i] = ValueState::empty;
      } else {
        values.texts[i] = text->dictionary[code];
      }
    }
  } else if (const auto* decimal = std::get_if<daybook::DecimalValues>(column.values)) {
    read_numbers(values, column, decimal->units, daybook::kEmptyUnits, begin);
  } else if (const auto* date = std::get_if<daybook::DateValues>(column.values)) {
    read_numbers(values, column, date->days, daybook::kEmptyDays, begin);
  } else if (const auto* time = std::get_if<daybook::TimeValues>(column.values)) {
    read_numbers(values, column, time->seconds, Moment::kNoTime, begin);
  } else {
    constexpr std::uint8_t kNoFlag = 255;
    read_numbers(values, column, std::get<daybook::FlagValues>(*column.values).flags, kNoFlag, begin);
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

/// One block of one evaluation; the texts that it creates go into one arena.
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

  /// Functions of one row's values: calls apply(row, result) where all arguments are filled.
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

}  // namespace pear::expression
