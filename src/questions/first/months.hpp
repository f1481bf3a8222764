// New customers by month.
#pragma once

#include <cstdint>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "base/date.hpp"
#include "base/decimal.hpp"
#include "questions/first/first_orders.hpp"

namespace pear::first {

struct MonthFacts {
  std::uint32_t group = 0;
  Month month;
  std::int64_t new_customers = 0;
  std::int64_t cumulative_customers = 0;  ///< of this month and all before
  DecimalSum first_amount;
};

/// New customers of each month from the first to the last, one group after another. Empty without any.
[[nodiscard]] std::vector<MonthFacts> months_of(const daybook::Daybook& daybook,
                                                const std::vector<FirstOrders>& beginnings,
                                                const analysis::CustomerGroups& groups);

}  // namespace pear::first
