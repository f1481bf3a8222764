// Aggregates as SQL. They respect levels: an order, customer or product is counted once in a group, however
// many lines it has.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "expression/aggregate/aggregate.hpp"
#include "pushdown/lines_in_sql.hpp"

namespace pear::pushdown {

/// The values of an aggregate come from one, two or three columns of a query's answer.
enum class AnswerKind : std::uint8_t {
  count,    ///< an integer
  sum,      ///< units; none is 0
  mean,     ///< a sum in units, and a count
  extreme,  ///< a value of the aggregate's type
  between,  ///< of the values in order, the two around a share of them, and how many there are
};

/// A statement for some aggregates of the same groups.
struct GroupStatement {
  std::string select;                   ///< columns k0, k1, ..., then those of each aggregate, v0, v1, ...
  std::vector<std::size_t> aggregates;  ///< positions in the list of all, in the order of their columns
  std::size_t values = 0;               ///< columns of all of them
};

[[nodiscard]] AnswerKind answer_kind_of(const expression::Aggregate& aggregate);
/// Columns of its answer.
[[nodiscard]] std::size_t answer_size_of(AnswerKind kind);

/// Statements that give all aggregates of `lines` by the keys; the first has a row for each group with lines,
/// and as its last column their number. Most are in the first, which groups by customer before it groups by
/// the keys only: a database that is divided by customer computes the first step where the lines are.
/// Errors: usage, for what databases do not compute.
[[nodiscard]] OrError<std::vector<GroupStatement>> statements_of(
    const std::vector<std::string>& keys, const std::vector<const expression::Aggregate*>& aggregates,
    const std::string& lines, const LineScope& scope);

/// A query of one row for each group: its keys k0, k1, ..., and the `value` of an aggregate OVER it.
[[nodiscard]] OrError<std::string> window_in_sql(const expression::Node& aggregate,
                                                 const std::vector<std::string>& keys,
                                                 const std::string& lines, const LineScope& scope);

}  // namespace pear::pushdown
