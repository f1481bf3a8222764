// The first rows of a file as they are, before anything is known about its header.
#pragma once

#include <vector>

#include "base/error.hpp"
#include "sources/csv_chunk.hpp"
#include "sources/table_address.hpp"

namespace pear::sources {

/// The first rows with any value, at most `most`, of the first 64 KB of a text file or of a sheet: each with
/// the line or row where it begins, and its values. None for a database, a pipe or standard input. Errors:
/// those of TableReader::open.
[[nodiscard]] OrError<std::vector<PlainRow>> first_rows(const TableAddress& address, std::size_t most);

}  // namespace pear::sources
