// Connections to SQL databases, through SOCI.
#pragma once

#include <exception>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include <soci/soci.h>

#include "base/error.hpp"
#include "database/address.hpp"

namespace pear::database {

/// Connects. Errors: io, with the database's message; also for a missing SQLite file, unless `may_create`.
[[nodiscard]] OrError<std::unique_ptr<soci::session>> connect(const DatabaseAddress& address,
                                                              bool may_create);

/// "cannot read sqlite shop.db: ..." on one line, even if the database's message has several.
[[nodiscard]] tl::unexpected<Error> database_error(std::string_view doing, const DatabaseAddress& address,
                                                   const std::exception& fault);

struct HeaderColumn {
  std::string name;
  soci::data_type type = soci::dt_string;  ///< as the database declares it
};

/// The columns of a query, which is not run. Throws as SOCI does.
[[nodiscard]] std::vector<HeaderColumn> header_of(soci::session& session, const std::string& query);

/// The names of all tables and views that a query may read, in order.
[[nodiscard]] OrError<std::vector<std::string>> table_names(soci::session& session,
                                                            const DatabaseAddress& address);

}  // namespace pear::database
