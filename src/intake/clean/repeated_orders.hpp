// Orders that a later source contains again.
#pragma once

#include "intake/clean/intake_log.hpp"
#include "intake/read/raw_table.hpp"

namespace pear::intake {

/// Whether customers have order ids in common within one source, so that an id does not identify an order.
[[nodiscard]] bool ids_are_shared(const RawTable& table);

/// Excludes the rows of orders (or of their lines) that a later source of the same [[TABLE.from]] contains
/// again, such as next month's export with corrected lines. An order is recognised by its id, and
/// also by its customer if customers share ids within a source; so spelling must have been unified. O(rows).
void replace_repeated_orders(RawTable& table, bool ids_are_shared, IntakeLog& log);

}  // namespace pear::intake
