// SQL databases, through SOCI: SQLite, PostgreSQL, ODBC.
#pragma once

#include <cstdint>
#include <exception>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include <soci/soci.h>

#include "base/error.hpp"

namespace pear {

enum class DatabaseKind : std::uint8_t { sqlite, postgresql, odbc };

/// Where a database is. Never holds a password.
struct DatabaseAddress {
  DatabaseKind kind = DatabaseKind::sqlite;
  std::string connection;  ///< what the database's own library is given: a path, a URL, a connection string
  std::string table;       ///< from "?table=", where it was given
};

/// Whether a text names a database rather than a file of text: "sqlite:", "postgresql://" or "odbc:".
[[nodiscard]] bool is_database_address(std::string_view text);

/// Reads "sqlite:///shop.db" (a fourth slash begins an absolute path), "postgresql://user@host/shop",
/// "odbc:DSN=shop", each with "?table=NAME" where a table is meant; anything else is the path of an SQLite
/// file. Errors: usage, for an address that holds a password: it belongs into PGPASSWORD, the password file
/// or the ODBC data source.
[[nodiscard]] OrError<DatabaseAddress> parse_database_address(std::string_view text);

/// Connects. Errors: io, with what the database says; also for an SQLite file that is not there, unless
/// `may_create`.
[[nodiscard]] OrError<std::unique_ptr<soci::session>> connect(const DatabaseAddress& address,
                                                              bool may_create);

/// A name as SQL writes it: in double quotes.
[[nodiscard]] std::string sql_name(std::string_view name);

/// "cannot read sqlite shop.db: ..." as one line, whatever the database's library says in several.
[[nodiscard]] tl::unexpected<Error> database_error(std::string_view doing, const DatabaseAddress& address,
                                                   const std::exception& fault);

/// The address as messages and reports show it.
[[nodiscard]] std::string shown(const DatabaseAddress& address);

/// The names of all tables and views that a query may read, in order.
[[nodiscard]] OrError<std::vector<std::string>> table_names(soci::session& session,
                                                            const DatabaseAddress& address);

}  // namespace pear
