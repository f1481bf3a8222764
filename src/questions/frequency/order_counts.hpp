// The orders of each customer, and their counts for groups of customers.
#pragma once

#include <cstdint>
#include <limits>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "analysis/question_input.hpp"
#include "base/date.hpp"
#include "questions/frequency/options.hpp"

namespace pear::frequency {

/// The orders of the customers of one group.
struct OrderFacts {
  std::uint64_t customers = 0;      ///< that are counted
  std::uint64_t ordered_again = 0;  ///< of these, with a second order
  std::uint64_t orders = 0;
  std::vector<std::uint64_t> days_between;  ///< orders and the customer's next, by the number of days between
  std::vector<std::uint64_t> typical_days;  ///< customers by the median of their days between orders
};

struct OrderCounts {
  std::vector<std::uint32_t> orders;  ///< by customer, within the window; 0: not counted
  std::vector<OrderFacts> groups;
  std::uint64_t without_order = 0;
  std::uint64_t incomplete = 0;  ///< customers whose window is not over, counted or not
};

/// Adds counts by place; the result has the length of the longer one.
void add_all(std::vector<std::uint64_t>& to, const std::vector<std::uint64_t>& from);

/// O(orders) on all threads.
[[nodiscard]] OrderCounts count_orders(const analysis::QuestionInput& input, const Options& options,
                                       const analysis::CustomerGroups& groups);

/// The last day that counts for a customer whose first order is on this one.
[[nodiscard]] inline std::int64_t last_day(const Options& options, Date first) {
  return options.within ? first.days + *options.within - 1 : std::numeric_limits<std::int32_t>::max();
}

}  // namespace pear::frequency
