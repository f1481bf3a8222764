// The orders of all sorted runs in the order of a daybook.
#pragma once

#include <cstdint>
#include <vector>

#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "storage/runs/sorted_runs.hpp"

namespace pear::storage {

/// Which order of which run comes next. A run's own orders keep their order, so `run_of_order` is all that is
/// needed to read the arrays of the runs in the order of the daybook.
struct OrderMerge {
  daybook::DaybookParts parts;              ///< customers, offsets, and the column order_date
  std::vector<std::int32_t> order_seconds;  ///< empty if no line has a time
  std::vector<std::uint16_t> run_of_order;
};

/// Customers in natural order of their ids; the orders of a customer by (date, time, order id). A customer
/// may be in several runs, an order may not. O(orders log runs).
[[nodiscard]] OrError<OrderMerge> merge_orders(const std::vector<SortedRun>& runs);

}  // namespace pear::storage
