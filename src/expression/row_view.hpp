// Rows whose columns live at different levels, as expressions see them.
#pragma once

#include <cstdint>
#include <limits>
#include <string>
#include <string_view>
#include <vector>

#include "daybook/column.hpp"

namespace pear {

/// No member stands behind this row: its value is empty.
constexpr std::uint32_t kNoMember = std::numeric_limits<std::uint32_t>::max();

/// A column of a view. Row r has the value of member `(*members)[r]`, or of member r where there are none:
/// so the customer's region is seen from each of the customer's lines without being copied there.
struct ViewColumn {
  std::string name;
  const ColumnValues* values = nullptr;
  const std::vector<std::uint32_t>* members = nullptr;

  [[nodiscard]] std::uint32_t member(std::size_t row) const {
    return members == nullptr ? static_cast<std::uint32_t>(row) : (*members)[row];
  }
};

/// Borrows all that it shows.
struct RowView {
  std::size_t rows = 0;
  std::vector<ViewColumn> columns;

  /// Position of the column of this name; columns.size() where there is none.
  [[nodiscard]] std::size_t find(std::string_view name) const;
};

}  // namespace pear
