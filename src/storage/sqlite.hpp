// A thin, typed layer over SQLite: connections and statements that clean up after themselves.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>

#include "base/error.hpp"

struct sqlite3;
struct sqlite3_stmt;

namespace pear::storage::sqlite {

/// One prepared statement. Bind from 1, read columns from 0; texts and blobs that were bound must live until
/// the next step().
class Statement {
 public:
  explicit Statement(sqlite3_stmt* statement) : statement_(statement) {}

  Statement& bind(int position, std::int64_t value);
  Statement& bind(int position, std::string_view text);
  Statement& bind_null(int position);
  Statement& bind_blob(int position, std::string_view bytes);

  /// True if there is a row to read; false at the end, when the statement is ready for new values.
  [[nodiscard]] OrError<bool> step();
  /// For statements without rows.
  [[nodiscard]] OrError<void> run();

  [[nodiscard]] std::int64_t integer(int column) const;
  [[nodiscard]] std::string_view text(int column) const;  ///< valid until the next step

 private:
  struct Finalize {
    void operator()(sqlite3_stmt* statement) const;
  };
  std::unique_ptr<sqlite3_stmt, Finalize> statement_;
};

/// One connection; not for several threads at once.
class Database {
 public:
  enum class Mode { read, write };
  /// `shown` is the file's name in messages. Errors: io.
  [[nodiscard]] static OrError<Database> open(const std::string& path, const std::string& shown, Mode mode);

  [[nodiscard]] OrError<void> execute(const std::string& sql);
  [[nodiscard]] OrError<Statement> prepare(const std::string& sql);
  /// The bytes of a blob, copied once. Errors: data, if there is none.
  [[nodiscard]] OrError<std::string> blob(const char* table, const char* column, std::int64_t rowid);

 private:
  struct Close {
    void operator()(sqlite3* connection) const;
  };
  explicit Database(sqlite3* connection) : connection_(connection) {}
  std::unique_ptr<sqlite3, Close> connection_;
};

}  // namespace pear::storage::sqlite
