#include "storage/sqlite.hpp"

#include <fmt/format.h>
#include <sqlite3.h>

namespace pear::storage::sqlite {
namespace {

/// SQLite's error of the last call: io if the system is at fault, data if the file's own bytes are (a table
/// that is missing, a page that makes no sense).
tl::unexpected<Error> failure(sqlite3* connection) {
  ErrorKind kind = ErrorKind::data;
  switch (sqlite3_errcode(connection)) {
    case SQLITE_IOERR:
    case SQLITE_CANTOPEN:
    case SQLITE_FULL:
    case SQLITE_PERM:
    case SQLITE_READONLY:
    case SQLITE_BUSY:
    case SQLITE_NOMEM:
      kind = ErrorKind::io;
      break;
    default:
      break;
  }
  return tl::unexpected<Error>({kind, fmt::format("SQLite: {}", sqlite3_errmsg(connection))});
}

}  // namespace

void Statement::Finalize::operator()(sqlite3_stmt* statement) const { sqlite3_finalize(statement); }
void Database::Close::operator()(sqlite3* connection) const { sqlite3_close(connection); }

Statement& Statement::bind(int position, std::int64_t value) {
  sqlite3_bind_int64(statement_.get(), position, value);
  return *this;
}

Statement& Statement::bind(int position, std::string_view text) {
  sqlite3_bind_text64(statement_.get(), position, text.data(), text.size(), SQLITE_STATIC, SQLITE_UTF8);
  return *this;
}

Statement& Statement::bind_null(int position) {
  sqlite3_bind_null(statement_.get(), position);
  return *this;
}

Statement& Statement::bind_blob(int position, std::string_view bytes) {
  sqlite3_bind_blob64(statement_.get(), position, bytes.data(), bytes.size(), SQLITE_STATIC);
  return *this;
}

OrError<bool> Statement::step() {
  const int status = sqlite3_step(statement_.get());
  if (status == SQLITE_ROW) return true;
  sqlite3_reset(statement_.get());
  if (status == SQLITE_DONE) return false;
  return failure(sqlite3_db_handle(statement_.get()));
}

OrError<void> Statement::run() {
  PEAR_TRY(step());
  return {};
}

std::int64_t Statement::integer(int column) const { return sqlite3_column_int64(statement_.get(), column); }

std::string_view Statement::text(int column) const {
  const auto* bytes = reinterpret_cast<const char*>(sqlite3_column_text(statement_.get(), column));
  if (bytes == nullptr) return {};
  return {bytes, static_cast<std::size_t>(sqlite3_column_bytes(statement_.get(), column))};
}

OrError<Database> Database::open(const std::string& path, const std::string& shown, Mode mode) {
  sqlite3* connection = nullptr;
  const int flags = (mode == Mode::read ? SQLITE_OPEN_READONLY : SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE) |
                    SQLITE_OPEN_NOMUTEX;
  const int status = sqlite3_open_v2(path.c_str(), &connection, flags, nullptr);
  Database database(connection);
  if (status != SQLITE_OK)
    return io_error(fmt::format("cannot open {}: {}", shown, sqlite3_errmsg(connection)));
  return database;
}

OrError<void> Database::execute(const std::string& sql) {
  if (sqlite3_exec(connection_.get(), sql.c_str(), nullptr, nullptr, nullptr) != SQLITE_OK)
    return failure(connection_.get());
  return {};
}

OrError<Statement> Database::prepare(const std::string& sql) {
  sqlite3_stmt* statement = nullptr;
  const int status =
      sqlite3_prepare_v2(connection_.get(), sql.c_str(), static_cast<int>(sql.size()), &statement, nullptr);
  if (status != SQLITE_OK) return failure(connection_.get());
  return Statement(statement);
}

OrError<std::string> Database::blob(const char* table, const char* column, std::int64_t rowid) {
  sqlite3_blob* handle = nullptr;
  if (sqlite3_blob_open(connection_.get(), "main", table, column, rowid, 0, &handle) != SQLITE_OK)
    return failure(connection_.get());
  std::string bytes(static_cast<std::size_t>(sqlite3_blob_bytes(handle)), '\0');
  const int status = sqlite3_blob_read(handle, bytes.data(), static_cast<int>(bytes.size()), 0);
  sqlite3_blob_close(handle);
  if (status != SQLITE_OK) return failure(connection_.get());
  return bytes;
}

}  // namespace pear::storage::sqlite
