// The columns with the names of products and customers.
#pragma once

#include "intake/inspect/guess.hpp"

namespace pear::intake {

/// Finds the column that is called product_name or customer_name, so that tables show it next to the ids: one
/// of that name, or else one with a usual name for it. Outside the table of the members themselves it may
/// have no more different values than their ids, which must have been found.
void find_member_names(GuessedTable& table, const SourceProfile& source);

}  // namespace pear::intake
