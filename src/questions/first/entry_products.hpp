// Entry products: the products of first orders, and what their customers did afterwards.
#pragma once

#include <cstdint>
#include <vector>

#include "base/error.hpp"
#include "expression/aggregate/grouping.hpp"
#include "questions/first/first_orders.hpp"
#include "statistics/significance.hpp"
#include "statistics/wilson_interval.hpp"

namespace pear::first {

/// The customers whose first order contains one value of a key.
struct Entry {
  std::uint32_t code = 0;
  std::uint64_t new_customers = 0;
  std::uint64_t followed = 0;       ///< of these, customers who were followed for all the days
  std::uint64_t ordered_again = 0;  ///< of those followed, with a second order in those days
  std::int64_t days_median = 0;   ///< to the second order, of those who ordered again; kEmptyCell without any
  std::int64_t later_orders = 0;  ///< mean of those followed, units of Decimal; kEmptyCell without any
  std::int64_t later_amount = 0;  ///< mean of those followed, money
  double q_value = 1;  ///< that the repeat rate differs from that of other new customers; NaN if not tested

  /// NaN if no customer was followed.
  [[nodiscard]] double share() const {
    return static_cast<double>(ordered_again) / static_cast<double>(followed);
  }
  [[nodiscard]] bool is_significant() const { return q_value <= statistics::kFalseDiscovery; }
  [[nodiscard]] statistics::Interval interval() const {
    return statistics::wilson_interval(ordered_again, followed);
  }
};

struct Entries {
  std::vector<Entry> entries;   ///< most new customers first
  std::uint64_t customers = 0;  ///< new ones
  std::uint64_t followed = 0;
  std::uint64_t ordered_again = 0;
};

/// Compares the repeat rate of each entry with `at_least` customers followed with that of all other new
/// customers: Fisher's exact test, two-sided, with the false discovery rate over these entries (Benjamini and
/// Hochberg 1995).
void set_q_values(Entries& all, std::uint64_t at_least);

/// A new customer counts once for each value in the first order. O(lines of first orders), on all threads.
/// Error: data, if a mean is out of the range of Decimal.
[[nodiscard]] OrError<Entries> entry_products_of(const daybook::Daybook& daybook,
                                                 const expression::GroupKey& key,
                                                 const std::vector<FirstOrders>& beginnings);

}  // namespace pear::first
