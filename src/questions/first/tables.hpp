// The tables of first.
#pragma once

#include "questions/first/counts.hpp"
#include "result/table.hpp"

namespace pear::first {

/// One row for each customer with an order.
[[nodiscard]] result::Table customers_table(const Counts& counts);

/// The products of first orders, and what their customers did afterwards.
[[nodiscard]] result::Table entry_table(const Counts& counts);

/// New customers of each month, from the first to the last, of all or of each group.
[[nodiscard]] result::Table months_table(const Counts& counts);

/// A row for each customer and each value of --per: when it was first bought.
[[nodiscard]] result::Table first_buys_table(const std::shared_ptr<const Counts>& counts);

}  // namespace pear::first
