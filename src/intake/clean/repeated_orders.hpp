// Orders that a later source contains again.
#pragma once

#include "intake/clean/intake_log.hpp"
#include "intake/read/raw_table.hpp"

namespace pear::intake {

/// Excludes the rows of orders (or of their lines) that a later source of the same [[TABLE.from]] contains
/// again, such as next month's export with corrected lines. An order is recognised by its id, and
/// also by its customer if customers share ids within a source; so spelling must have been unified. O(rows).
void replace_repeated_orders(RawTable& table, IntakeLog& log);

}  // namespace pear::intake
