#include "output/sinks/sql_sink.hpp"

#include <deque>
#include <filesystem>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "database/connection.hpp"
#include "files/inputs.hpp"

namespace pear::output {
namespace {

/// SQLite has no types for dates and truth values, and would store them as text.
std::string sql_type(SinkType type, database::DatabaseKind kind) {
  const bool sqlite = kind == database::DatabaseKind::sqlite;
  switch (type) {
    case SinkType::text:
      return kind == database::DatabaseKind::odbc ? "VARCHAR(4000)" : "TEXT";
    case SinkType::decimal:
      return "NUMERIC(19, 4)";
    case SinkType::date:
      return sqlite ? "TEXT" : "DATE";
    case SinkType::time:
      return sqlite ? "TEXT" : "TIME";
    case SinkType::truth:
      return kind == database::DatabaseKind::postgresql ? "BOOLEAN" : "TEXT";
  }
  return "TEXT";
}

class SqlSink final : public RowSink {
 public:
  SqlSink(database::DatabaseAddress address, std::unique_ptr<soci::session> session, bool is_new_file)
      : address_(std::move(address)), session_(std::move(session)), is_new_file_(is_new_file) {}
  ~SqlSink() override {
    statement_.reset();  // before the transaction that it is part of is rolled back
    transaction_.reset();
    session_.reset();
    std::error_code ignored;
    if (is_new_file_ && !is_committed_) std::filesystem::remove(address_.connection, ignored);
  }

  OrError<void> begin(const std::vector<SinkColumn>& columns) {
    return guarded([&] {
      transaction_.emplace(*session_);
      std::string definition, places;
      for (std::size_t i = 0; i < columns.size(); ++i) {
        definition += fmt::format("{}{} {}", i > 0 ? ", " : "", database::sql_name(columns[i].name),
                                  sql_type(columns[i].type, address_.kind));
        places += fmt::format("{}:v{}", i > 0 ? ", " : "", i);
      }
      *session_ << fmt::format("CREATE TABLE {} ({})", database::sql_name(address_.table), definition);
      values_.resize(columns.size());
      indicators_.resize(columns.size(), soci::i_ok);
      statement_.emplace(*session_);
      for (std::size_t i = 0; i < columns.size(); ++i)
        statement_->exchange(soci::use(values_[i], indicators_[i], fmt::format("v{}", i)));
      statement_->alloc();
      statement_->prepare(
          fmt::format("INSERT INTO {} VALUES ({})", database::sql_name(address_.table), places));
      statement_->define_and_bind();
    });
  }

  OrError<void> add(const std::vector<std::string>& values) override {
    for (std::size_t i = 0; i < values.size(); ++i) {
      values_[i] = values[i];
      indicators_[i] = values[i].empty() ? soci::i_null : soci::i_ok;
    }
    return guarded([&] { statement_->execute(true); });
  }

  OrError<void> commit() override {
    return guarded([&] {
      statement_.reset();
      transaction_->commit();
      is_committed_ = true;
    });
  }

  std::string name() const override {
    return fmt::format("{}, table {}", database::shown(address_), address_.table);
  }

 private:
  template <class Work>
  OrError<void> guarded(Work work) {
    try {
      work();
      return {};
    } catch (const std::exception& fault) {
      return database::database_error(fmt::format("cannot write the table {} of", in_quotes(address_.table)),
                                      address_, fault);
    }
  }

  database::DatabaseAddress address_;
  std::unique_ptr<soci::session> session_;
  std::optional<soci::transaction> transaction_;
  std::deque<std::string> values_;  // the statement is bound to these positions
  std::deque<soci::indicator> indicators_;
  std::optional<soci::statement> statement_;
  bool is_new_file_;  ///< an SQLite file that did not exist before
  bool is_committed_ = false;
};

}  // namespace

OrError<std::unique_ptr<RowSink>> sql_sink(const std::string& address,
                                           const std::vector<SinkColumn>& columns) {
  PEAR_ASSIGN(database::DatabaseAddress parsed, database::parse_database_address(address));
  if (parsed.table.empty())
    return usage_error(fmt::format("--into {} does not name a table. Add it at the end, as ?table=lines.",
                                   database::shown(parsed)));
  const bool is_file = parsed.kind == database::DatabaseKind::sqlite;
  if (is_file) PEAR_TRY(files::check_output(parsed.connection));
  std::error_code failure;
  const bool is_new_file = is_file && !std::filesystem::exists(parsed.connection, failure);
  PEAR_ASSIGN(auto session, database::connect(parsed, true));
  auto sink = std::make_unique<SqlSink>(std::move(parsed), std::move(session), is_new_file);
  PEAR_TRY(sink->begin(columns));
  return sink;
}

}  // namespace pear::output
