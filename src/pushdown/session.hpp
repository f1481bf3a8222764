// One state of a database, for all statements of a question.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "database/address.hpp"
#include "daybook/column.hpp"
#include "pushdown/dialect/dialect.hpp"

namespace soci {
class session;
}

namespace pear::pushdown {

struct SqlColumn {
  std::string name;
  daybook::ColumnType type =
      daybook::ColumnType::text;  ///< as the database declares it: text, decimal or date
};

/// The rows of a statement: a text for each value, nothing for NULL.
using SqlRows = std::vector<std::vector<std::optional<std::string>>>;

/// A connection within one transaction that only reads: all statements see the same state of the database.
/// Not for several threads at once.
class Session {
 public:
  /// Errors: usage, for a system that does not compute as the standard says; io, with the database's message.
  /// With `explains`, statements are kept and not run: each gives no rows.
  [[nodiscard]] static OrError<Session> open(const database::DatabaseAddress& address, bool explains = false);
  Session(Session&&) noexcept;
  ~Session();

  [[nodiscard]] const Dialect& dialect() const { return *dialect_; }
  [[nodiscard]] bool explains() const { return explains_; }
  /// A statement's columns, without running it.
  [[nodiscard]] OrError<std::vector<SqlColumn>> header(const std::string& select);
  /// The rows of a statement whose columns have these names, as SQL writes them. Errors: io, with the
  /// database's message.
  [[nodiscard]] OrError<SqlRows> rows(const std::string& with, const std::string& select,
                                      const std::vector<std::string>& columns);
  /// The statements so far, as they were sent.
  [[nodiscard]] const std::vector<std::string>& statements() const { return statements_; }
  /// The bytes of all values so far.
  [[nodiscard]] std::uint64_t bytes() const { return bytes_; }

 private:
  Session() = default;
  database::DatabaseAddress address_;
  std::unique_ptr<Dialect> dialect_;
  std::unique_ptr<soci::session> session_;
  std::vector<std::string> statements_;
  std::uint64_t bytes_ = 0;
  bool explains_ = false;
};

}  // namespace pear::pushdown
