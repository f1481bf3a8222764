// Expressions as SQL.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "base/date.hpp"
#include "base/error.hpp"
#include "expression/rows/row_view.hpp"
#include "expression/syntax/node.hpp"
#include "pushdown/dialect/dialect.hpp"

namespace pear::pushdown {

/// What an expression is written for: its columns have the names of the view, in double quotes.
struct SqlScope {
  const Dialect& dialect;
  const expression::RowView&
      view;  ///< names and types, and the day that CURRENT_DATE means; its rows are not read
};

/// The name in SQL of a column of the view. Databases cut names that are longer than 63 bytes.
[[nodiscard]] std::string name_in_sql(const expression::RowView& view, std::size_t column);

/// A name of ours as it is, which is no word of SQL, and any other in double quotes: systems fold names
/// without quotes to upper or to lower case, so that each must always have quotes, or never.
[[nodiscard]] std::string column_in_sql(std::string_view name);

/// The SQL of an expression without aggregates. Errors: usage, see check_types; also for a function that
/// databases do not compute as we do, by name.
[[nodiscard]] OrError<std::string> sql_of(const expression::Node& node, const SqlScope& scope);

/// The same, for a node whose types are known: see check_types.
[[nodiscard]] OrError<std::string> sql_of_checked(const expression::Node& node, const SqlScope& scope);

}  // namespace pear::pushdown
