// Where a table from outside is.
#pragma once

#include <optional>
#include <string>

#include "sources/encoding.hpp"

namespace pear::sources {

/// What is to be read, and how, as far as that is given; the rest is detected.
struct TableAddress {
  std::string file;      ///< path, or "-"; empty where it is a database
  std::string database;  ///< see parse_database_address
  std::string query;     ///< one SELECT
  std::string table;     ///< where the query is all of a table: its name, for messages
  std::optional<Encoding> encoding;
  std::optional<char> delimiter;
};

}  // namespace pear::sources
