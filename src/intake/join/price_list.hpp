// List prices that changed over time, looked up by product and day.
#pragma once

#include "base/error.hpp"
#include "intake/join/joined_lines.hpp"

namespace pear::intake {

/// If there is a table of prices, gives each line the list price of its product on the day of its order: the
/// line's own if it has one, otherwise that of the prices, otherwise that of the products. A price applies
/// from valid_from to valid_to, both days included; without valid_from it has always applied, without
/// valid_to it applies until the product's next price begins. Matches are reported as for a join, except that
/// fees need no price. Errors: data, for a price that ends before it begins, and for two prices of one
/// product on one day, with examples.
[[nodiscard]] OrError<void> look_up_prices(const IntakePlan& plan, JoinedLines& lines);

}  // namespace pear::intake
