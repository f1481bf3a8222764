// The tables of a daybook file that any SQLite client can read.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "base/text_array.hpp"
#include "daybook/column.hpp"
#include "daybook/member_list.hpp"
#include "storage/daybook_info.hpp"
#include "storage/sqlite.hpp"

namespace pear::storage {

/// Members with lines: their ids, and the columns of their level.
struct ListedMembers {
  daybook::Level level = daybook::Level::customer;  ///< customer or product
  const TextArray* ids = nullptr;
  std::vector<const daybook::Column*> columns;
};

/// The customers or products, a row each, up to the number of columns that SQLite allows. Errors, here and
/// below: io.
[[nodiscard]] OrError<void> write_members(sqlite::Database& database, const ListedMembers& members);

/// Columns, runs of import, sources and cleaning counts.
[[nodiscard]] OrError<void> write_description(sqlite::Database& database, const DaybookInfo& info);

/// The format, the fingerprint, the shop and the totals. The last table: it has a checksum of the others.
[[nodiscard]] OrError<void> write_about(sqlite::Database& database, const DaybookInfo& info);

/// Members of lists that have no line.
[[nodiscard]] OrError<void> write_waiting(sqlite::Database& database, const daybook::MemberList& list);

}  // namespace pear::storage
