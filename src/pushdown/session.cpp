#include "pushdown/session.hpp"

#include <utility>

#include <fmt/format.h>

#include "database/connection.hpp"
#include "pushdown/dialect/sqlite_functions.hpp"

namespace pear::pushdown {
namespace {

daybook::ColumnType type_of(soci::data_type type) {
  switch (type) {
    case soci::dt_date:
      return daybook::ColumnType::date;
    case soci::dt_double:
    case soci::dt_integer:
    case soci::dt_long_long:
    case soci::dt_unsigned_long_long:
      return daybook::ColumnType::decimal;
    default:
      return daybook::ColumnType::text;
  }
}

/// PostgreSQL continues a statement whose client has ended, unless it checks from time to time; and groups
/// lines by sorting them on disk, unless it may use more memory. Other systems may not know the settings.
void adjust(soci::session& session) {
  for (const char* setting : {"SET client_connection_check_interval = '1s'",
                              "SELECT set_config('work_mem', '64MB', false) WHERE "
                              "pg_size_bytes(current_setting('work_mem')) < 67108864"}) {
    try {
      session << setting;
    } catch (const std::exception&) {  // before version 14, for instance
    }
  }
}

/// A driver begins a transaction in its own way. A system that does not know the words of the standard for
/// one that only reads one state has its own default.
OrError<void> begin_by_odbc(soci::session& session, const database::DatabaseAddress& address) {
  session.begin();
  try {
    session << "SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY";
  } catch (const std::exception&) {
    session.rollback();
    session.begin();
  }
  std::string quotient;
  try {
    session << "SELECT CAST(CAST(7 AS BIGINT) / 2 AS VARCHAR(20)) FROM (VALUES (1)) AS pear_one (n)",
        soci::into(quotient);
  } catch (const std::exception& fault) {
    auto error = database::database_error("cannot ask", address, fault);
    error.value().message +=
        " Questions by ODBC need a system that knows the SQL of the standard. Import it with pear-thread "
        "import.";
    return error;
  }
  if (quotient == "3") return {};
  return usage_error(
      fmt::format("{} cannot answer questions: there, 7 / 2 is {} and not 3, as for whole numbers in "
                  "the standard. Import it with pear-thread import.",
                  database::shown(address), quotient));
}

}  // namespace

Session::Session(Session&&) noexcept = default;
/// A driver may refuse to disconnect within a transaction, and SOCI then throws where nothing can catch it.
Session::~Session() {
  if (session_ == nullptr || address_.kind != database::DatabaseKind::odbc) return;
  try {
    session_->rollback();
  } catch (const std::exception&) {  // nothing was written
  }
}

OrError<Session> Session::open(const database::DatabaseAddress& address, bool explains) {
  Session session;
  session.explains_ = explains;
  session.address_ = address;
  session.dialect_ = dialect_of(address.kind);
  PEAR_ASSIGN(session.session_, database::connect(address, false));
  try {
    if (address.kind == database::DatabaseKind::sqlite) add_functions(*session.session_);
    if (address.kind == database::DatabaseKind::postgresql) adjust(*session.session_);
    if (address.kind == database::DatabaseKind::odbc)
      PEAR_TRY(begin_by_odbc(*session.session_, address));
    else
      *session.session_ << std::string(session.dialect_->begin_reading());
  } catch (const std::exception& fault) {
    return database::database_error("cannot read", address, fault);
  }
  return session;
}

OrError<std::vector<SqlColumn>> Session::header(const std::string& select) {
  try {
    std::vector<SqlColumn> columns;
    for (const database::HeaderColumn& column : database::header_of(*session_, select))
      columns.push_back({column.name, type_of(column.type)});
    return columns;
  } catch (const std::exception& fault) {
    return database::database_error("cannot read from", address_, fault);
  }
}

OrError<SqlRows> Session::rows(const std::string& with, const std::string& select,
                               const std::vector<std::string>& columns) {
  std::string as_texts;
  for (const std::string& column : columns)
    as_texts += fmt::format("{}CAST({} AS {})", as_texts.empty() ? "" : ", ", column, dialect_->text_type());
  statements_.push_back(fmt::format("{}SELECT {} FROM ({}) AS pear_answer", with, as_texts, select));
  SqlRows rows;
  if (explains_) return rows;
  try {
    soci::row row;
    soci::statement statement = (session_->prepare << statements_.back(), soci::into(row));
    for (bool more = statement.execute(true); more; more = statement.fetch()) {
      auto& values = rows.emplace_back(columns.size());
      for (std::size_t i = 0; i < values.size(); ++i) {
        if (row.get_indicator(i) == soci::i_null) continue;
        values[i] = row.get<std::string>(i);
        bytes_ += values[i]->size();
      }
    }
  } catch (const std::exception& fault) {
    return database::database_error("cannot answer in", address_, fault);
  }
  return rows;
}

}  // namespace pear::pushdown
