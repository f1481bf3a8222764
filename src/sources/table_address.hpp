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
  std::optional<Encoding> encoding;
  std::optional<char> delimiter;
  std::uint64_t largest_expansion = kLargestExpansion;  ///< of compressed data, see open_bytes
};

}  // namespace pear::sources
