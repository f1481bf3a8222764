// One row for each customer.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "intake/read/raw_table.hpp"

namespace pear::intake {

/// What an older row of a customer said, and the newest says.
struct ChangedCustomer {
  std::string customer_id;
  std::string column;
  std::string before, after;
  std::string source;      ///< of the older row
  std::uint64_t line = 0;  ///< of the older row
};

/// Keeps of each customer id the row with the latest value of the column `latest_by` (natural order, so dates
/// in ISO form), the last in the sources where that is equal or not known. Errors: data, where there is no
/// such column.
[[nodiscard]] OrError<std::vector<ChangedCustomer>> keep_newest_customers(RawTable& customers,
                                                                          const std::string& latest_by);

}  // namespace pear::intake
