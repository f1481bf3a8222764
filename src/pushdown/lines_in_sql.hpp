// The lines of a warehouse with all the columns that a question uses, as queries that its statements begin
// with.
#pragma once

#include <string>
#include <vector>

#include "analysis/options/selection.hpp"
#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "expression/rows/line_view.hpp"
#include "expression/syntax/tree.hpp"
#include "pushdown/dialect/dialect.hpp"
#include "pushdown/warehouse.hpp"

namespace pear::pushdown {

/// What a question's statements are written for.
struct LineScope {
  const Warehouse& warehouse;
  const Dialect& dialect;
  const expression::LineView&
      schema;  ///< the columns of the lines, of which it holds no rows that mean anything
  const std::vector<expression::Window>& windows;
};

/// One line without values, with these columns of the warehouse: their names, levels and types. The derived
/// columns that it is completed with have theirs, too.
[[nodiscard]] daybook::Daybook schema_of(const Warehouse& warehouse, const std::vector<std::string>& columns,
                                         Date data_end);

/// "WITH ... ", after which `pear_raw` has a row for each one of the lines' table, `pear_all_lines` has a row
/// for each line of the shop, with each column of the schema, and `pear_lines` the selected ones. Lines
/// without an id, a date, a quantity or an amount are in neither. Errors: usage, for an expression that a
/// database does not compute, by name.
[[nodiscard]] OrError<std::string> with_lines(const LineScope& scope, const analysis::Selection& selection,
                                              Date data_end);

}  // namespace pear::pushdown
