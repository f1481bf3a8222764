// Products, or values of a column of theirs, as a result names them.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "expression/aggregate/grouping.hpp"
#include "result/table.hpp"

namespace pear::analysis {

/// A view of what items are: borrows all three.
struct ItemLabels {
  const daybook::Daybook& daybook;
  const expression::GroupKey& key;
  const std::string& item;  ///< "product", "category"

  [[nodiscard]] bool are_products() const;
  /// Whether products have names beside their ids.
  [[nodiscard]] bool are_named() const;
  /// What columns of items are called: "product", or "colour" for a column of that name.
  [[nodiscard]] std::string column() const;
  /// "P43 Starter kit", or "P43"
  [[nodiscard]] std::string title(std::uint32_t code) const;
  /// "Starter kit", or "P43" where there is no name.
  [[nodiscard]] std::string name(std::uint32_t code) const;
  /// A column of these items, and one of their names, NAME_name, where they are named.
  void add_columns(const std::string& column_name, std::string description, std::vector<std::uint32_t> codes,
                   std::vector<result::TableColumn>& columns) const;
  /// The code of the item that an option asks for: a product by id or name. Error: usage, with a suggestion.
  [[nodiscard]] OrError<std::uint32_t> find(const std::string& option, const std::string& text) const;
};

}  // namespace pear::analysis
