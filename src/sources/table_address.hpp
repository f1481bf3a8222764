// The address of a table outside.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "sources/byte_source.hpp"
#include "sources/encoding.hpp"

namespace pear::sources {

/// What is to be read, and how, as far as given; the rest is detected.
struct TableAddress {
  std::string file;      ///< path, or "-"; empty for a database
  std::string database;  ///< see parse_database_address
  std::string query;     ///< one SELECT
  std::string table;     ///< if the query is a whole table: its name, for messages
  std::string sheet;  ///< of a spreadsheet: its name, or its number from 1; may be empty if there is only one
  std::uint64_t header_line = 0;  ///< of a file, from 1; 0 for the first that is not blank
  std::optional<Encoding> encoding;
  std::optional<char> delimiter;
  std::uint64_t largest_expansion = kLargestExpansion;  ///< of compressed data, see open_bytes
  bool only_header = false;                             ///< its rows have been read before and are left out
};

/// The address of a file as a command line writes it: a path, or PATH?sheet=NAME for a sheet of a
/// spreadsheet. A path that exists is taken as it is.
[[nodiscard]] TableAddress file_address(const std::string& word);

}  // namespace pear::sources
