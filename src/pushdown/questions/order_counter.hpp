// The statements of frequency: the orders of customers in groups.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include <absl/container/flat_hash_map.h>

#include "base/date.hpp"
#include "base/error.hpp"
#include "pushdown/group_reader.hpp"
#include "questions/frequency/counts.hpp"

namespace pear::pushdown {

/// Borrows the options and the reader. Errors of all: io and data.
class OrderCounter {
 public:
  OrderCounter(const frequency::Options& options, const GroupReader& reader, Date data_end);

  /// Customers by group and number of orders: an entry for each pair of them.
  OrError<void> count_customers(frequency::Counts& counts);

  /// The figure of --count, of the lines that count: a row for each customer.
  OrError<void> count_values(const SelectedLines& lines, frequency::Counts& counts);

  /// The days between orders, and their median by customer: the smallest that at least half of them do not
  /// exceed.
  OrError<void> count_days(std::vector<frequency::OrderFacts>& groups) const;

  /// Customers whose window is not over.
  [[nodiscard]] OrError<std::uint64_t> incomplete() const;

  /// The entry of the counts' values for a customer, by their group and number of orders or by their id;
  /// nothing for one who is not counted.
  [[nodiscard]] std::optional<std::size_t> entry_of(std::uint32_t group, std::int64_t orders,
                                                    const std::string& customer) const;

  /// Whether an order is counted.
  [[nodiscard]] std::string is_counted() const;

  /// Each order on its day.
  [[nodiscard]] std::string with_first_days() const;

 private:
  /// The lines within the windows of the customers that count.
  [[nodiscard]] std::string counted_lines() const;

  [[nodiscard]] std::string is_complete() const;

  /// The orders that count.
  [[nodiscard]] std::string counted() const;

  [[nodiscard]] std::string with_gaps() const;

  /// use(group, number, n) for each row.
  template <class UseNumbers>
  OrError<void> read(const std::string& select, UseNumbers use) const {
    return reader_.read(select, {"number", "n"},
                        [&](std::uint32_t group, std::span<const SqlValue> values) -> OrError<void> {
                          PEAR_ASSIGN(const std::int64_t number, whole64(values[0]));
                          PEAR_ASSIGN(const std::int64_t n, whole64(values[1]));
                          use(group, number, static_cast<std::uint64_t>(n));
                          return {};
                        });
  }

  const frequency::Options& options_;
  const GroupReader& reader_;
  const std::string& keys_;
  std::string data_end_;
  std::map<std::pair<std::uint32_t, std::int64_t>, std::size_t> numbers_;  ///< by group and number of orders
  absl::flat_hash_map<std::string, std::size_t> counts_of_;                ///< by customer, with --count
};

}  // namespace pear::pushdown
