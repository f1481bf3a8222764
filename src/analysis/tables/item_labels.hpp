// The names of products, or of values of a product column, in a result.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "expression/aggregate/grouping.hpp"
#include "result/table.hpp"

namespace pear::analysis {

/// A view of the items: borrows all three.
struct ItemLabels {
  const daybook::Daybook& daybook;
  const expression::GroupKey& key;
  const std::string& item;  ///< "product", "category"

  [[nodiscard]] bool are_products() const;
  /// Whether products have names in addition to their ids.
  [[nodiscard]] bool are_named() const;
  /// The name of columns of items: "product", or "colour" for a column of that name.
  [[nodiscard]] std::string column() const;
  /// "P43 Starter kit", or "P43"
  [[nodiscard]] std::string title(std::uint32_t code) const;
  /// "Starter kit", or "P43" if there is no name.
  [[nodiscard]] std::string name(std::uint32_t code) const;
  /// A column of these items, and one of their names, NAME_name, if they have names.
  void add_columns(const std::string& column_name, std::string description, std::vector<std::uint32_t> codes,
                   std::vector<result::TableColumn>& columns) const;
  /// The code of the item that an option names: a product by id or name. Error: usage, with a suggestion.
  [[nodiscard]] OrError<std::uint32_t> find(const std::string& option, const std::string& text) const;
};

}  // namespace pear::analysis
