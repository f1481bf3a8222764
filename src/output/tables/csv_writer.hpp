// Tables as CSV (RFC 4180, UTF-8, line feeds).
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"
#include "files/atomic_file.hpp"
#include "result/table.hpp"

namespace pear::output {

/// Appends a field, quoted if necessary.
void append_csv_field(std::string& line, std::string_view field);

/// One record with its line feed.
[[nodiscard]] std::string csv_line(const std::vector<std::string_view>& fields);

/// The header and all rows, exact values (see cell_text).
[[nodiscard]] OrError<void> write_csv(const result::Table& table, files::AtomicFile& file);

}  // namespace pear::output
