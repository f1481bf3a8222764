// Rows whose columns belong to different levels, as expressions see them.
#pragma once

#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/date.hpp"
#include "daybook/column.hpp"

namespace pear::expression {

/// What a value depends on, as a set of bits: an order's value depends on the order and so on its customer, a
/// line's on everything. A value that depends only on a customer and a product is the same on all lines of
/// that pair.
using Grain = std::uint8_t;
namespace grain {
constexpr Grain kConstant = 0;
constexpr Grain kCustomer = 1;
constexpr Grain kOrder = 3;
constexpr Grain kProduct = 4;
constexpr Grain kLine = 15;
}  // namespace grain

[[nodiscard]] Grain grain_of(daybook::Level level);

/// Whether what depends on `part` is determined once `whole` is known.
[[nodiscard]] constexpr bool within(Grain part, Grain whole) { return (part & ~whole) == 0; }

/// A column of a view. Row r has the value of member `(*members)[r]`, or of member r if there are none. So
/// each of a customer's lines shows the customer's region without a copy of it.
struct ViewColumn {
  std::string name;
  const daybook::ColumnValues* values = nullptr;
  const std::vector<std::uint32_t>* members = nullptr;
  Grain grain = grain::kLine;

  [[nodiscard]] std::uint32_t member(std::size_t row) const {
    return members == nullptr ? static_cast<std::uint32_t>(row) : (*members)[row];
  }
};

/// Borrows everything it shows.
struct RowView {
  std::size_t rows = 0;
  std::vector<ViewColumn> columns;
  std::optional<Date> data_end = {};  ///< the last day of the data, which CURRENT_DATE means

  /// Position of the column of this name; columns.size() if there is none.
  [[nodiscard]] std::size_t find(std::string_view name) const;
};

}  // namespace pear::expression
