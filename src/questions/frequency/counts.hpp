// What is counted for each customer, and how many customers have which number of it.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "analysis/question_input.hpp"
#include "expression/rows/line_view.hpp"
#include "questions/frequency/question.hpp"

namespace pear::frequency {

/// The orders of the customers of one group.
struct OrderFacts {
  std::uint64_t customers = 0;  ///< that are counted
  std::uint64_t came_back = 0;  ///< of these, with a second order
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

/// Adds counts by place; the longer of the two says how many there are.
void add_all(std::vector<std::uint64_t>& to, const std::vector<std::uint64_t>& from);

/// O(orders) on all threads.
[[nodiscard]] OrderCounts count_orders(const analysis::QuestionInput& asked, const Options& options,
                                       const analysis::CustomerGroups& groups);

/// A value for each customer: orders, or what --count says.
struct CustomerValues {
  std::string name = "orders";  ///< of its column
  result::Unit unit = result::Unit::count;
  std::vector<std::int64_t> values;  ///< by customer, in the unit's form; kEmptyCell where not counted
  std::uint64_t without_value = 0;   ///< customers who would be counted if they had one

  [[nodiscard]] std::int64_t units(std::uint32_t customer) const;  ///< units of Decimal
};

/// Of the lines within the customers' windows. Errors: see ask_frequency.
[[nodiscard]] OrError<CustomerValues> customer_values(const analysis::QuestionInput& asked,
                                                      const Options& options, const OrderCounts& counts,
                                                      const expression::LineView& lines);

/// Customers by value, or by band of values: a place is a row of the distribution.
struct Distribution {
  std::vector<std::int64_t> values;  ///< by place, rising; none where there are bands
  std::vector<std::string> labels;   ///< by place: the number, or the band
  bool is_banded = false;
  bool has_outside = false;                           ///< the last place is of what is in no band
  std::vector<std::uint32_t> place_of;                ///< by customer; kNoMember where not counted
  std::vector<std::vector<std::uint64_t>> customers;  ///< by group, then by place

  [[nodiscard]] std::size_t places() const { return labels.size(); }
  [[nodiscard]] std::uint64_t all(std::size_t place) const;
};

/// Error: usage, where there are too many different values for a table.
[[nodiscard]] OrError<Distribution> distribute(const CustomerValues& values, const Options& options,
                                               const analysis::CustomerGroups& groups);

}  // namespace pear::frequency
