// An expression as a tree, as written.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace pear::expression {

/// The type of a value. `null` is the type of the bare word NULL, which fits every other type.
enum class ValueType : std::uint8_t { null, text, number, date, time, truth };

enum class Op : std::uint8_t {
  null_literal,
  text_literal,
  number_literal,
  date_literal,
  time_literal,
  truth_literal,
  days_literal,
  current_date,  ///< the end of the data: see RowView
  column,
  negate,
  add,
  subtract,
  multiply,
  divide,
  concatenate,
  equal,
  not_equal,
  less,
  less_or_equal,
  greater,
  greater_or_equal,
  both,
  either,
  negation,
  is_null,
  in_list,
  like,
  case_when,  ///< condition, value, condition, value, ..., otherwise
  coalesce,
  null_if,
  lower,
  upper,
  trim,
  substring,
  char_length,
  absolute,
  round,
  floor,
  ceiling,
  year_of,
  quarter_of,
  month_of,
  week_of,
  day_of,
  hour_of,
  minute_of,
  to_number,  ///< CAST
  to_date,
  to_text,
  // Aggregates: over many rows. args contains what is counted or added up.
  count_rows,      ///< COUNT(*)
  count_members,   ///< COUNT([DISTINCT] order_id) and the like; number is the Level of the id
  count_values,    ///< COUNT(x)
  count_distinct,  ///< COUNT(DISTINCT x)
  sum,
  average,
  minimum,
  maximum,
  median,
  percentile,            ///< PERCENTILE_CONT: number is the share, in units of Decimal
  deviation,             ///< STDDEV_SAMP
  population_deviation,  ///< STDDEV_POP
  // Only with OVER: a place among the members of the partition.
  row_number,
  rank,
  ntile,  ///< number is how many parts
};

[[nodiscard]] constexpr bool is_aggregate(Op op) { return op >= Op::count_rows; }
/// Whether it is a place in an order, so that it needs OVER (... ORDER BY ...).
[[nodiscard]] constexpr bool is_place(Op op) { return op >= Op::row_number; }

struct Node {
  Op op = Op::null_literal;
  std::size_t at = 0;       ///< its position in the text, from 1
  std::string text;         ///< of a text literal or a name
  std::int64_t number = 0;  ///< of other literals: units of Decimal, days, seconds, 0 or 1
  std::vector<Node> args;
  std::vector<Node> filter;     ///< of an aggregate: none, or the condition of FILTER
  std::vector<Node> partition;  ///< of an aggregate with OVER
  std::vector<Node> order;      ///< of a place: what the members are sorted by
  bool is_descending = false;   ///< of a part of `order`
  bool is_over = false;
  ValueType type = ValueType::null;  ///< set by check_types()
  std::size_t column = 0;            ///< set by check_types(): position in the RowView
};

}  // namespace pear::expression
