// The counts of first: each customer's first order, and the orders after it.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "expression/aggregate/grouping.hpp"
#include "questions/first/entry_products.hpp"
#include "questions/first/first_buys.hpp"
#include "questions/first/first_orders.hpp"
#include "questions/first/months.hpp"
#include "questions/first/options.hpp"

namespace pear::first {

/// Everything that first computes.
struct Counts {
  analysis::QuestionInput input;
  Options options;
  std::vector<FirstOrders> beginnings;   ///< by customer
  std::vector<std::uint32_t> customers;  ///< with an order, sorted by id
  std::int64_t run_in = 0;               ///< days at the start whose customers are not called new
  analysis::CustomerGroups groups;
  std::vector<MonthFacts> months;
  expression::GroupKey entry_key;  ///< of --per, or of products
  Entries entries;
  std::optional<FirstBuys> first_buys;  ///< with --per

  [[nodiscard]] const daybook::Daybook& daybook() const { return input.daybook; }
  /// "product", "category": the noun for a value of the entry key, in sentences and file names.
  [[nodiscard]] std::string entry_noun() const;
  /// "P43 Starter kit"
  [[nodiscard]] std::string label(const Entry& entry) const;
  /// "180 days", the time for which customers are followed.
  [[nodiscard]] std::string followed() const;
  /// Entries with enough customers to be compared, in their order.
  [[nodiscard]] std::vector<Entry> comparable_entries() const;
};

/// See ask().
[[nodiscard]] OrError<std::shared_ptr<const Counts>> count(analysis::QuestionInput input,
                                                           const Options& options);

/// The same, from each customer's first orders and the days of the run-in. Of the input's daybook only the
/// lines of first orders are read, and the dates of second ones; with --per also the lines of each customer's
/// first order with a value.
[[nodiscard]] OrError<std::shared_ptr<const Counts>> count_from(std::vector<FirstOrders> beginnings,
                                                                std::int64_t run_in,
                                                                analysis::QuestionInput input,
                                                                const Options& options);

}  // namespace pear::first
