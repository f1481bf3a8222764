// Whether later exports contain orders again.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "intake/inspect/guess.hpp"

namespace pear::intake {

/// Why an order in a later source of the table replaces the one in an earlier source: most of the orders that
/// are in two sources have products in common there. Empty if there are none, or if they look like orders
/// that were cut in two. Reads the sources again if they share order ids. Errors: those of the sources.
[[nodiscard]] OrError<std::string> repeated_orders(const GuessedTable& table,
                                                   const std::vector<SourceProfile>& profiles);

}  // namespace pear::intake
