// Derived columns as SQL.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "pushdown/dialect/dialect.hpp"

namespace pear::pushdown {

/// A column that other columns of the same line determine: the year of its date, its margin; nothing for
/// other names.
[[nodiscard]] std::optional<std::string> derived_of_line(std::string_view name, const Dialect& dialect);

/// A column of a customer's whole history, as an aggregate over the customer's lines: first_order_date,
/// customer_amount; nothing for other names.
[[nodiscard]] std::optional<std::string> derived_of_history(std::string_view name, const Dialect& dialect,
                                                            bool has_fees);

}  // namespace pear::pushdown
