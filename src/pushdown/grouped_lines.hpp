// Figures of groups of lines, computed in a database.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include <absl/container/flat_hash_map.h>

#include "base/error.hpp"
#include "expression/aggregate/grouped.hpp"
#include "expression/aggregate/grouping.hpp"
#include "expression/syntax/tree.hpp"
#include "pushdown/answer_values.hpp"
#include "pushdown/lines_in_sql.hpp"
#include "pushdown/session.hpp"

namespace pear::pushdown {

/// A question's lines in a database.
struct SelectedLines {
  Session& session;
  LineScope scope;
  std::string with;  ///< see with_lines
};

/// What SqlKey::shown is computed from.
constexpr std::string_view kKeyName = "pear_key";

/// An expression that lines are grouped by.
struct SqlKey {
  expression::GroupKey key;  ///< without labels and codes
  std::string sql;
  std::string shown = {};  ///< the value as it is shown, computed from kKeyName; empty if it is `sql`

  /// The value as it is shown, from the key.
  [[nodiscard]] std::string shown_of(const std::string& of_key) const;
};

/// Errors: usage, naming the option.
[[nodiscard]] OrError<std::vector<SqlKey>> keys_of(const std::string& option,
                                                   const std::vector<expression::Tree>& trees,
                                                   const SelectedLines& lines);
/// The ids of customers, orders or products as a key.
[[nodiscard]] SqlKey id_key(daybook::Level level);

/// The combinations of the keys' values that occur, in their order, and the figures of each.
struct GroupedLines {
  std::vector<expression::GroupKey> keys;         ///< without codes
  std::vector<std::vector<std::uint32_t>> codes;  ///< by key, then by group
  std::uint32_t groups = 0;
  absl::flat_hash_map<std::vector<SqlValue>, std::uint32_t>
      group_of;                      ///< by the keys as the database gave them
  std::vector<std::uint64_t> lines;  ///< by group
  std::vector<std::vector<daybook::ColumnValues>>
      aggregates;                           ///< by figure, then by its aggregates, then by group
  std::vector<expression::Values> figures;  ///< by figure, then by group

  /// Whether two groups have the same values of the first keys. Such groups are neighbours.
  [[nodiscard]] bool same_first(std::uint32_t a, std::uint32_t b, std::size_t keys_compared) const;
};

/// One statement, and one more for each aggregate of what the lines of one customer do not determine. `from`
/// is what the lines come from: pear_lines, or a query in brackets. Without keys there is one group. Errors:
/// usage, io, and data if a value leaves its range.
[[nodiscard]] OrError<GroupedLines> group_lines(const SelectedLines& lines, const std::vector<SqlKey>& keys,
                                                const std::vector<expression::GroupedExpression>& figures,
                                                const std::string& from = "pear_lines");
/// A query of all lines, with the day of their customer's first order as first_day; NULL without one.
[[nodiscard]] std::string with_first_days();
/// The lines that meet a condition (SQL), to group.
[[nodiscard]] std::string lines_where(const std::string& condition);

/// The number of lines, orders, customers or products for which an expression has no value.
[[nodiscard]] OrError<expression::GroupedExpression> without_value(const expression::Node& expression,
                                                                   daybook::Level level,
                                                                   const SelectedLines& lines);

/// A figure from its definition, for the schema of the lines.
[[nodiscard]] OrError<expression::GroupedExpression> figure_of(const std::string& text,
                                                               const SelectedLines& lines);

}  // namespace pear::pushdown
