// One row for each customer.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "intake/read/raw_table.hpp"

namespace pear::intake {

/// A value in an older row of a customer, and the value in the newest row.
struct ChangedCustomer {
  std::string customer_id;
  std::string column;
  std::string before, after;
  std::string source;      ///< of the older row
  std::uint64_t line = 0;  ///< of the older row
};

/// Keeps for each customer id the row with the latest value of the column `latest_by` (natural order, so
/// dates in ISO form), or the last in the sources if that is equal or unknown. Errors: data, if there is no
/// such column.
[[nodiscard]] OrError<std::vector<ChangedCustomer>> keep_newest_customers(RawTable& customers,
                                                                          const std::string& latest_by);

}  // namespace pear::intake
