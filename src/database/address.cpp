#include "database/address.hpp"

#include <regex>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::database {
namespace {

constexpr std::string_view kSqlite = "sqlite:";
constexpr std::string_view kOdbc = "odbc:";

bool is_postgresql(std::string_view text) {
  return text.starts_with("postgresql://") || text.starts_with("postgres://");
}

/// Removes "table=NAME" from the part after the question mark.
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
        "the address of the database contains a password. Remove it: PostgreSQL reads the password from "
        "PGPASSWORD or the file ~/.pgpass, ODBC from the data source in odbc.ini.");
  if (address.connection.empty())
    return usage_error(fmt::format("{} does not name a database.", in_quotes(text)));
  return address;
}

std::string sql_name(std::string_view name) {
  std::string quoted = "\"";
  for (const char c : name) quoted.append(c == '"' ? 2 : 1, c);
  return quoted + "\"";
}

std::string shown(const DatabaseAddress& address) {
  return (address.kind == DatabaseKind::odbc ? "odbc:" : "") + address.connection;
}

}  // namespace pear::database
