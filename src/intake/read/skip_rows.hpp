// Rows of a source that are not rows of its table: totals, repeated headers.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "sources/csv_chunk.hpp"

namespace pear::intake {

/// Whether a text fits a pattern like those of file names: * for any characters, ? for one, [ab] for one of
/// some.
[[nodiscard]] bool fits_pattern(const std::string& text, const std::string& pattern);

/// Removes the rows whose first value that is not empty fits one of the patterns, malformed rows too. Returns
/// their number.
std::uint64_t skip_rows(sources::CsvRows& rows, const std::vector<std::string>& patterns);

}  // namespace pear::intake
