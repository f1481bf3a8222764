// Rows that are not rows of the table: titles in between, totals, remarks.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "intake/read/table_columns.hpp"
#include "sources/csv_chunk.hpp"

namespace pear::intake {

/// Whether a text fits a pattern like those of file names: * for any characters, ? for one, [ab] for one of
/// some.
[[nodiscard]] bool fits_pattern(const std::string& text, const std::string& pattern);

/// Removes the rows whose first value that is not empty fits one of the patterns, malformed rows too. Returns
/// their number.
std::uint64_t skip_rows(sources::CsvRows& rows, const std::vector<std::string>& patterns);

/// The plan's condition on the texts of a row must fit its columns. Error: data, naming skip_if.
[[nodiscard]] OrError<void> check_skip_condition(const TableColumns& plan);

/// Removes the rows for which the plan's condition is true; it must have been checked. Returns their number.
std::uint64_t skip_rows_if(sources::CsvRows& rows, const TableColumns& plan);

}  // namespace pear::intake
