// Statements of a question's own, by groups of customers.
#pragma once

#include <cstdint>
#include <functional>
#include <span>
#include <string>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "base/error.hpp"
#include "pushdown/grouped_lines.hpp"

namespace pear::pushdown {

/// Groups of customers by the values of expressions, and statements that have their keys as their first
/// columns.
class GroupReader {
 public:
  /// Errors: usage, naming the option, for an expression that a customer does not determine, and for more
  /// groups than an answer is for; io.
  [[nodiscard]] static OrError<GroupReader> read_groups(const std::string& option,
                                                        const std::vector<expression::Tree>& by,
                                                        const SelectedLines& lines);

  /// The groups, without their customers.
  [[nodiscard]] const analysis::CustomerGroups& groups() const { return groups_; }
  /// The group with these values of the keys, as the database gave them.
  [[nodiscard]] std::uint32_t group_of(std::span<const SqlValue> keys) const {
    return grouped_.group_of.at({keys.begin(), keys.end()});
  }
  [[nodiscard]] const std::vector<SqlKey>& keys() const { return keys_; }
  /// "region AS k0, ": the keys' definitions over lines, to begin the columns of a statement with.
  [[nodiscard]] const std::string& definitions() const { return definitions_; }
  /// "k0, "
  [[nodiscard]] const std::string& names() const { return names_; }
  [[nodiscard]] const Dialect& dialect() const { return lines_.scope.dialect; }

  /// use(group, values) for each row of a statement with these columns after the keys. Errors: io, and those
  /// of `use`.
  using Use = std::function<OrError<void>(std::uint32_t group, std::span<const SqlValue> values)>;
  [[nodiscard]] OrError<void> read(const std::string& select, const std::vector<std::string>& columns,
                                   const Use& use) const;

  /// The number n that a statement gives.
  [[nodiscard]] OrError<std::uint64_t> number(const std::string& select) const;
  /// Customers without an order: they have returned something, and bought nothing.
  [[nodiscard]] OrError<std::uint64_t> customers_without_order() const;

 private:
  explicit GroupReader(const SelectedLines& lines) : lines_(lines) {}
  const SelectedLines& lines_;
  analysis::CustomerGroups groups_;
  std::vector<SqlKey> keys_;
  GroupedLines grouped_;
  std::string definitions_, names_;
};

}  // namespace pear::pushdown
