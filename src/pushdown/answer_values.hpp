// Texts of a database's answer as values.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "base/decimal.hpp"
#include "base/error.hpp"
#include "daybook/column.hpp"
#include "expression/aggregate/grouping.hpp"
#include "expression/syntax/node.hpp"

namespace pear::pushdown {

using SqlValue = std::optional<std::string>;

/// A whole number of up to 128 bits; 0 for NULL. Error: data, if it is none.
[[nodiscard]] OrError<Int128> whole(const SqlValue& value);
/// The same within 64 bits. Error: data, if it leaves the range.
[[nodiscard]] OrError<std::int64_t> whole64(const SqlValue& value);
/// A date as YYYY-MM-DD. Error: data.
[[nodiscard]] OrError<std::int32_t> day(const std::string& text);

/// The values as a column; texts have a dictionary in natural order. Numbers are in units. Error: data.
[[nodiscard]] OrError<daybook::ColumnValues> column_of(expression::ValueType type,
                                                       std::span<const SqlValue> values);

/// Gives a key its labels, and the code of each value. The key's type is known.
[[nodiscard]] OrError<std::vector<std::uint32_t>> code_values(std::span<const SqlValue> values,
                                                              expression::GroupKey& key);

}  // namespace pear::pushdown
