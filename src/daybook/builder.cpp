#include "daybook/builder.hpp"

#include <utility>

#include "daybook/columns/extra_columns.hpp"
#include "daybook/nesting.hpp"

namespace pear::daybook {

OrError<BuiltDaybook> build_daybook(LineTable table) {
  PEAR_ASSIGN(NestedLines nested, nest_lines(std::move(table)));
  BuiltDaybook built;
  built.orders_with_two_dates = nested.orders_with_two_dates;
  built.shared_order_ids = nested.shared_order_ids;
  for (CandidateColumn& candidate : nested.columns) {
    ColumnValues& values = candidate.column.values;
    put_in_line_order(values, nested.line_positions);
    if (auto* text = std::get_if<TextValues>(&values)) values = with_inferred_type(std::move(*text));
    nested.parts.columns.push_back(at_its_level(std::move(candidate), nested.parts, built));
  }
  built.daybook = Daybook(std::move(nested.parts));
  return built;
}

}  // namespace pear::daybook
