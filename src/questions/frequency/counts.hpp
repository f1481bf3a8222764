// The counts of frequency: orders, or another value, of each customer.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "analysis/customer_groups.hpp"
#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "questions/frequency/distribution.hpp"
#include "questions/frequency/options.hpp"
#include "questions/frequency/order_counts.hpp"
#include "questions/frequency/quiet_customers.hpp"

namespace pear::frequency {

/// Everything that frequency computes.
struct Counts {
  Options options;
  const daybook::Daybook& daybook;  ///< borrowed
  analysis::CustomerGroups groups;
  OrderCounts orders;
  CustomerValues values;
  Distribution distribution;
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

/// See ask().
[[nodiscard]] OrError<Counts> count(const analysis::QuestionInput& input, const Options& options);

}  // namespace pear::frequency
