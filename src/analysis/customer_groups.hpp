// Customers in groups: --by of the questions about customers.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "expression/aggregate/grouping.hpp"
#include "expression/rows/line_view.hpp"
#include "expression/syntax/tree.hpp"
#include "result/table.hpp"

namespace pear::analysis {

/// Groups are sorted by the first key, then the second, and so on. Without keys all customers are in one
/// group.
struct CustomerGroups {
  std::vector<std::string> names;  ///< of the keys
  std::vector<expression::GroupKey> keys;
  std::uint32_t count = 1;
  std::vector<std::uint32_t> of_customer;         ///< empty without keys
  std::vector<std::vector<std::uint32_t>> codes;  ///< by key, then by group
  std::string note;                               ///< on values that were combined; empty if none

  [[nodiscard]] bool is_split() const { return !keys.empty(); }
  [[nodiscard]] std::uint32_t group_of(std::uint32_t customer) const {
    return of_customer.empty() ? 0 : of_customer[customer];
  }
  /// "North", "North / 2024"
  [[nodiscard]] std::string label(std::uint32_t group) const;
  /// "region", "region and first year"
  [[nodiscard]] std::string noun() const;
  /// Whether the groups are times, whose order must be kept.
  [[nodiscard]] bool is_time() const;
  /// The columns that identify the group of a row; `count` means all groups together.
  [[nodiscard]] std::vector<result::TableColumn> columns(const std::vector<std::uint32_t>& groups) const;
};

/// Error: usage, for an expression that a customer does not determine.
[[nodiscard]] OrError<void> check_of_customers(const std::string& option, const expression::Tree& tree,
                                               const expression::GroupKey& key);

/// Each expression must have one value for a customer. With more than `most` groups, the most frequent values
/// of each key are kept and the others combined, with a note. Errors: usage, naming the option. O(customers).
[[nodiscard]] OrError<CustomerGroups> group_customers(const std::vector<expression::Tree>& by,
                                                      const expression::LineView& lines,
                                                      const std::string& option = "by",
                                                      std::uint32_t most = 1'000);

}  // namespace pear::analysis
