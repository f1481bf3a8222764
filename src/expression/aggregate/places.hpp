// ROW_NUMBER, RANK and NTILE: the place of each member in an order.
#pragma once

#include <map>
#include <string>

#include "base/error.hpp"
#include "expression/aggregate/windows.hpp"

namespace pear::expression {

/// A column of the level that PARTITION BY and ORDER BY determine: places of orders, customers, products or
/// lines, each member once. Members that are no purchase (returned lines, orders and customers with returns
/// only) have no place. Empty values come last; equal ones keep the daybook's order in ROW_NUMBER and NTILE,
/// and share the first place in RANK. O(members log members), on all threads. Errors: usage and data, see
/// Expression.
[[nodiscard]] OrError<WindowColumn> place_column(const daybook::Daybook& daybook,
                                                 const std::map<std::string, Grain>& grains,
                                                 const Window& window);

}  // namespace pear::expression
