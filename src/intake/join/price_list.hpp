// List prices that changed over time, looked up by product and day.
#pragma once

#include "base/error.hpp"
#include "intake/join/joined_lines.hpp"

namespace pear::intake {

/// Where there is a table of prices, gives each line the list price of its product on the day of its order:
/// the line's own where it has one, otherwise that of the prices, otherwise that of the products. A price
/// holds from valid_from to valid_to, both days included; without the one since ever, without the other until
/// the product's next price begins. What was found and what was not is reported as of a join. Errors: data,
/// for a price that ends before it begins, and for two prices of one product on one day, with examples.
[[nodiscard]] OrError<void> look_up_prices(JoinedLines& lines);

}  // namespace pear::intake
