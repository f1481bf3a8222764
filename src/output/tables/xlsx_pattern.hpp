// The display formats of columns in a workbook.
#pragma once

#include <string>

#include "result/table.hpp"

namespace pear::output {

/// The number format (ECMA-376, 18.8.31) for the column's unit and values, money with the code of its
/// currency.
[[nodiscard]] std::string cell_pattern(const result::TableColumn& column, const std::string& currency);

}  // namespace pear::output
