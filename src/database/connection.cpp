#include "database/connection.hpp"

#include <algorithm>
#include <filesystem>
#include <set>

#include <fmt/format.h>

#include "base/text.hpp"

// SOCI's own headers for these would need those of each database's library.
extern "C" {
const soci::backend_factory* factory_sqlite3();
const soci::backend_factory* factory_postgresql();
const soci::backend_factory* factory_odbc();
}

namespace pear::database {
OrError<std::unique_ptr<soci::session>> connect(const DatabaseAddress& address, bool may_create) {
  try {
    auto session = std::make_unique<soci::session>();
    switch (address.kind) {
      case DatabaseKind::sqlite: {
        std::error_code failure;
        if (!may_create && !std::filesystem::exists(address.connection, failure))
          return io_error(fmt::format("cannot read {}: there is no such file.", address.connection));
        session->open(*factory_sqlite3(),
                      "db=\"" + address.connection +
                          "\" timeout=10");  // seconds, for a file that another program locks
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

tl::unexpected<Error> database_error(std::string_view doing, const DatabaseAddress& address,
                                     const std::exception& fault) {
  const auto* of_soci = dynamic_cast<const soci::soci_error*>(&fault);  // without the statement after it
  std::string said = of_soci == nullptr ? fault.what() : of_soci->get_error_message();
  const std::size_t reason = said.find(": ");  // after the name of a function of the library
  if (said.starts_with("sqlite3_statement_backend::") && reason != std::string::npos)
    said.erase(0, reason + 2);
  std::replace(said.begin(), said.end(), '\n', ' ');
  while (!said.empty() && (said.back() == ' ' || said.back() == '.')) said.pop_back();
  return io_error(fmt::format("{} {}: {}.", doing, shown(address), said));
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

std::vector<HeaderColumn> header_of(soci::session& session, const std::string& query) {
  soci::row row;
  soci::statement look =
      (session.prepare << fmt::format("SELECT * FROM ({}) AS pear_rows WHERE 1 = 0", query), soci::into(row));
  look.execute(true);
  std::vector<HeaderColumn> columns;
  for (std::size_t i = 0; i < row.size(); ++i)
    columns.push_back({row.get_properties(i).get_name(), row.get_properties(i).get_data_type()});
  return columns;
}

}  // namespace pear::database
