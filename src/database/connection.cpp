#include "database/connection.hpp"

#include <algorithm>
#include <filesystem>
#include <regex>
#include <set>

#include <fmt/format.h>

#include "base/text.hpp"

// SOCI's own headers for these would need those of each database's library.
extern "C" {
const soci::backend_factory* factory_sqlite3();
const soci::backend_factory* factory_postgresql();
const soci::backend_factory* factory_odbc();
}

namespace pear {
namespace {

constexpr std::string_view kSqlite = "sqlite:";
constexpr std::string_view kOdbc = "odbc:";

bool is_postgresql(std::string_view text) {
  return text.starts_with("postgresql://") || text.starts_with("postgres://");
}

/// Takes "table=NAME" out of the part behind the question mark.
std::string take_table(std::string& text) {
  const std::regex pattern(R"(([?&])table=([^&]*)(&?))");
  std::smatch found;
  if (!std::regex_search(text, found, pattern)) return "";
  std::string table = found[2];
  const std::string separator = found[3].length() > 0 ? found[1].str() : "";
  text = found.prefix().str() + separator + found.suffix().str();
  return table;
}

bool holds_password(const DatabaseAddress& address) {
  const auto flags = std::regex::icase;
  if (address.kind == DatabaseKind::postgresql)
    return std::regex_search(address.connection,
                             std::regex(R"(^postgres(ql)?://[^/@]*:[^/@]*@|[?&]password=)", flags));
  return address.kind == DatabaseKind::odbc &&
         std::regex_search(address.connection, std::regex(R"((^|;)\s*(PWD|PASSWORD)\s*=)", flags));
}

}  // namespace

bool is_database_address(std::string_view text) {
  return text.starts_with(kSqlite) || text.starts_with(kOdbc) || is_postgresql(text);
}

OrError<DatabaseAddress> parse_database_address(std::string_view text) {
  DatabaseAddress address;
  address.connection = std::string(text);
  if (is_database_address(text)) address.table = take_table(address.connection);
  if (is_postgresql(text)) {
    address.kind = DatabaseKind::postgresql;
  } else if (text.starts_with(kOdbc)) {
    address.kind = DatabaseKind::odbc;
    address.connection.erase(0, kOdbc.size());
  } else if (text.starts_with(kSqlite)) {
    address.connection.erase(0, kSqlite.size());
    if (address.connection.starts_with("///")) address.connection.erase(0, 3);
  }
  if (holds_password(address))
    return usage_error(
        "the address of the database holds a password. Leave it out: PostgreSQL takes it from PGPASSWORD or"
        " the password file ~/.pgpass, ODBC from the data source in odbc.ini.");
  if (address.connection.empty())
    return usage_error(fmt::format("{} does not say which database.", in_quotes(text)));
  return address;
}

OrError<std::unique_ptr<soci::session>> connect(const DatabaseAddress& address, bool may_create) {
  try {
    auto session = std::make_unique<soci::session>();
    switch (address.kind) {
      case DatabaseKind::sqlite: {
        std::error_code failure;
        if (!may_create && !std::filesystem::exists(address.connection, failure))
          return io_error(fmt::format("cannot read {}: there is no such file.", address.connection));
        session->open(*factory_sqlite3(), "db=\"" + address.connection + "\"");
        break;
      }
      case DatabaseKind::postgresql:
        session->open(*factory_postgresql(), address.connection);
        break;
      case DatabaseKind::odbc:
        session->open(*factory_odbc(), address.connection);
        break;
    }
    return session;
  } catch (const std::exception& fault) {
    return database_error("cannot connect to", address, fault);
  }
}

std::string sql_name(std::string_view name) {
  std::string quoted = "\"";
  for (const char c : name) quoted.append(c == '"' ? 2 : 1, c);
  return quoted + "\"";
}

tl::unexpected<Error> database_error(std::string_view doing, const DatabaseAddress& address,
                                     const std::exception& fault) {
  const auto* of_soci = dynamic_cast<const soci::soci_error*>(&fault);  // without the statement behind it
  std::string said = of_soci == nullptr ? fault.what() : of_soci->get_error_message();
  std::replace(said.begin(), said.end(), '\n', ' ');
  while (!said.empty() && (said.back() == ' ' || said.back() == '.')) said.pop_back();
  return io_error(fmt::format("{} {}: {}.", doing, shown(address), said));
}

std::string shown(const DatabaseAddress& address) {
  return (address.kind == DatabaseKind::odbc ? "odbc:" : "") + address.connection;
}

OrError<std::vector<std::string>> table_names(soci::session& session, const DatabaseAddress& address) {
  try {
    std::set<std::string> names;
    std::string name;
    const std::string own = "SELECT name FROM sqlite_master WHERE type IN ('table', 'view')";
    const std::string standard =
        "SELECT table_name FROM information_schema.tables WHERE table_schema NOT IN"
        " ('pg_catalog', 'information_schema')";
    soci::statement rows =
        (session.prepare << (address.kind == DatabaseKind::sqlite ? own : standard), soci::into(name));
    rows.execute();
    while (rows.fetch()) names.insert(name);
    return std::vector<std::string>(names.begin(), names.end());
  } catch (const std::exception& fault) {
    auto error = database_error("cannot list the tables of", address, fault);
    error.value().message += " Name the table at the end of the address, as ?table=NAME.";
    return error;
  }
}

}  // namespace pear
