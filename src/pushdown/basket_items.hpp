// The items of baskets in a database.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include <absl/container/flat_hash_map.h>

#include "base/error.hpp"
#include "expression/syntax/tree.hpp"
#include "mining/baskets.hpp"
#include "pushdown/grouped_lines.hpp"

namespace pear::pushdown {

/// The items that the lines have.
struct Items {
  expression::GroupKey key;                               ///< without codes
  absl::flat_hash_map<std::string, std::uint32_t> codes;  ///< by the text that the database gives for an item

  /// Error: data, for an item that came after the others were read.
  [[nodiscard]] OrError<std::uint32_t> code_of(const std::string& text) const;
};

/// Products, or what --count names. Errors: usage.
[[nodiscard]] OrError<SqlKey> item_key(const std::optional<expression::Tree>& items,
                                       const SelectedLines& lines);
/// One statement. Errors: io.
[[nodiscard]] OrError<Items> read_items(const SqlKey& key, const SelectedLines& lines);

/// Error: usage, for baskets of orders that follow one another.
[[nodiscard]] OrError<void> check_rule(const mining::BasketRule& rule);

/// The lines' queries, and pear_items: a row for each item of a basket, with customer_id, basket, item,
/// on_day (of the item's first line in the basket), amount, and margin and known, the margin and the amount
/// of lines with a known cost.
[[nodiscard]] std::string with_items(const mining::BasketRule& rule, const SqlKey& item,
                                     const SelectedLines& lines);

/// Whether the cost of any line is known. At most one statement.
[[nodiscard]] OrError<bool> knows_margins(const SelectedLines& lines);

}  // namespace pear::pushdown
