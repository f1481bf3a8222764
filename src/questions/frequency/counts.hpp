// The counts of frequency: orders, or another value, of each customer.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "analysis/question_input.hpp"
#include "base/date.hpp"
#include "base/error.hpp"
#include "questions/frequency/distribution.hpp"
#include "questions/frequency/options.hpp"
#include "questions/frequency/order_counts.hpp"
#include "questions/frequency/quiet_customers.hpp"

namespace pear::frequency {

/// A customer of --list who is in the distribution.
struct ListedCustomer {
  std::uint32_t customer = 0, group = 0, place = 0;
  std::uint32_t orders = 0;  ///< within the window
  std::int64_t value = 0;    ///< see CustomerValues
  Date first, last;          ///< of the first and last order, within the window or not
};

/// Everything that frequency computes.
struct Counts {
  Options options;
  const daybook::Daybook& daybook;  ///< borrowed
  analysis::CustomerGroups groups;
  OrderCounts orders;
  CustomerValues values;
  Distribution distribution;
  std::vector<ListedCustomer> listed;   ///< with --list, those going quiet with the most at stake first
  std::optional<QuietCustomers> quiet;  ///< with --list, unless there is a window
  bool is_sample = false;               ///< of the shop's customers: shares have intervals

  [[nodiscard]] OrderFacts all_groups() const;
  /// Customers of a group who are in the distribution.
  [[nodiscard]] std::uint64_t customers(std::uint32_t group) const;
  [[nodiscard]] std::uint64_t customers() const;
  /// " in their first 90 days"; empty without a window.
  [[nodiscard]] std::string in_window() const;
  /// "orders", "products": the noun for what is counted.
  [[nodiscard]] std::string noun() const;
};

/// Sorts the listed customers, who are in order of customer.
void sort_listed(Counts& counts);

/// See ask().
[[nodiscard]] OrError<Counts> count(const analysis::QuestionInput& input, const Options& options);

}  // namespace pear::frequency
