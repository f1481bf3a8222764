// The columns with the names of products and customers.
#pragma once

#include <vector>

#include "intake/inspect/guess.hpp"

namespace pear::intake {

/// Finds the columns that are called product_name and customer_name, so that tables show them next to the
/// ids: one of that name, or else one with a usual name for it. They are those of the members' own table;
/// only if that has none, those of the lines, or else the orders, with no more different values than ids. Ids
/// must have been found.
void find_member_names(std::vector<GuessedTable>& tables, const std::vector<SourceProfile>& profiles);

}  // namespace pear::intake
