// The tables of first.
#pragma once

#include "base/error.hpp"
#include "expression/rows/line_view.hpp"
#include "questions/first/counts.hpp"
#include "result/table.hpp"

namespace pear::first {

/// One row for each customer with an order. Errors: usage, see Options::with.
[[nodiscard]] OrError<result::Table> customers_table(const Counts& counts, const expression::LineView& lines);

/// The products of first orders, and what their customers did afterwards.
[[nodiscard]] result::Table entry_table(const Counts& counts);

/// New customers of each month, from the first to the last, of all or of each group.
[[nodiscard]] result::Table months_table(const Counts& counts);

/// A row for each customer and each value of --per: when it was first bought. Errors: usage, see
/// Options::with.
[[nodiscard]] OrError<result::Table> first_buys_table(const Counts& counts,
                                                      const expression::LineView& lines);

}  // namespace pear::first
