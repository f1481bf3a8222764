// The address of an SQL database.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "base/error.hpp"

namespace pear::database {

enum class DatabaseKind : std::uint8_t { sqlite, postgresql, odbc };

/// Where a database is. Never contains a password.
struct DatabaseAddress {
  DatabaseKind kind = DatabaseKind::sqlite;
  std::string connection;  ///< what the database's own library needs: a path, a URL, a connection string
  std::string table;       ///< from "?table=", if given
};

/// Whether a text names a database rather than a file of text: "sqlite:", "postgresql://" or "odbc:".
[[nodiscard]] bool is_database_address(std::string_view text);

/// Error: usage, without the text, if it contains a password or a token in any spelling that libpq, ODBC
/// drivers or URLs use. For every text that is an address or a path, before it is shown.
[[nodiscard]] OrError<void> check_no_password(std::string_view text);

/// Reads "sqlite:///shop.db" (a fourth slash begins an absolute path), "postgresql://user@host/shop",
/// "odbc:DSN=shop", each with "?table=NAME" for a table; anything else is the path of an SQLite file. Errors:
/// usage, for an address that contains a password: it belongs in PGPASSWORD, the password file or the ODBC
/// data source.
[[nodiscard]] OrError<DatabaseAddress> parse_database_address(std::string_view text);

/// The address as messages and reports show it.
[[nodiscard]] std::string shown(const DatabaseAddress& address);

/// A name as SQL writes it: in double quotes.
[[nodiscard]] std::string sql_name(std::string_view name);

}  // namespace pear::database
