#include "storage/readable_tables.hpp"

#include <algorithm>
#include <string_view>
#include <utility>

#include <fmt/format.h>

#include "daybook/daybook.hpp"
#include "storage/schema.hpp"

namespace pear::storage {
namespace {

constexpr std::size_t kMostColumns = 1'990;  ///< of a readable table: SQLite's tables have up to 2,000

std::string_view id_of(daybook::Level level) {
  return level == daybook::Level::customer ? daybook::role::kCustomerId : daybook::role::kProductId;
}

/// A new table of members: their id and these columns, all texts. Returns a statement that inserts a row.
OrError<sqlite::Statement> create_members(sqlite::Database& database, std::string_view table,
                                          daybook::Level level, const std::vector<std::string>& columns) {
  std::string definition = fmt::format("\"{}\" TEXT NOT NULL", id_of(level));
  std::string places = "?";
  for (const std::string& column : columns) {
    definition += fmt::format(", \"{}\" TEXT", column);
    places += ", ?";
  }
  PEAR_TRY(database.execute(fmt::format("CREATE TABLE {} ({})", table, definition)));
  return database.prepare(fmt::format("INSERT INTO {} VALUES ({})", table, places));
}

OrError<void> write_sources(sqlite::Database& database, const DaybookInfo& info) {
  PEAR_ASSIGN(sqlite::Statement row,
              database.prepare("INSERT INTO sources VALUES (NULL, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"));
  for (const daybook::SourceRecord& source : info.provenance.sources) {
    row.bind(1, std::int64_t{source.run}).bind(2, source.name);
    row.bind(3, static_cast<std::int64_t>(source.bytes)).bind(4, source.content_hash).bind(5, source.table);
    int column = 6;
    for (const std::uint64_t rows : {source.rows_read, source.rows_kept, source.rows_duplicate,
                                     source.rows_excluded, source.rows_rejected})
      row.bind(column++, static_cast<std::int64_t>(rows));
    PEAR_TRY(row.run());
  }
  return {};
}

}  // namespace

OrError<void> write_members(sqlite::Database& database, const ListedMembers& members) {
  const std::size_t columns = std::min(members.columns.size(), kMostColumns);
  std::vector<std::string> names;
  for (std::size_t i = 0; i < columns; ++i) names.push_back(members.columns[i]->name);
  PEAR_ASSIGN(sqlite::Statement insert,
              create_members(database, members.level == daybook::Level::customer ? "customers" : "products",
                             members.level, names));
  std::vector<std::string> values(columns);
  for (std::size_t member = 0; member < members.ids->size(); ++member) {
    insert.bind(1, (*members.ids)[member]);
    for (std::size_t i = 0; i < columns; ++i) {
      values[i] = daybook::value_text(members.columns[i]->values, member);
      if (values[i].empty())
        insert.bind_null(static_cast<int>(i) + 2);
      else
        insert.bind(static_cast<int>(i) + 2, values[i]);
    }
    PEAR_TRY(insert.run());
  }
  return {};
}

OrError<void> write_description(sqlite::Database& database, const DaybookInfo& info) {
  PEAR_ASSIGN(sqlite::Statement column, database.prepare("INSERT INTO columns VALUES (NULL, ?, ?, ?, ?)"));
  for (const DaybookInfo::ColumnInfo& each : info.columns) {
    column.bind(1, each.name).bind(2, daybook::to_text(each.level)).bind(3, daybook::to_text(each.type));
    if (each.type == daybook::ColumnType::text)
      column.bind(4, static_cast<std::int64_t>(each.distinct_texts));
    else
      column.bind_null(4);
    PEAR_TRY(column.run());
  }
  PEAR_ASSIGN(sqlite::Statement run, database.prepare("INSERT INTO import_runs VALUES (NULL, ?, ?, ?, ?)"));
  for (const daybook::ImportRun& each : info.provenance.runs) {
    run.bind(1, each.command).bind(2, static_cast<std::int64_t>(each.lines_added));
    run.bind(3, static_cast<std::int64_t>(each.lines_replaced));
    PEAR_TRY(run.bind(4, static_cast<std::int64_t>(each.lines)).run());
  }
  PEAR_TRY(write_sources(database, info));
  PEAR_ASSIGN(sqlite::Statement count, database.prepare("INSERT INTO cleaning_counts VALUES (NULL, ?, ?)"));
  for (const daybook::CleaningCount& cleaning : info.provenance.cleaning)
    PEAR_TRY(count.bind(1, cleaning.what).bind(2, static_cast<std::int64_t>(cleaning.count)).run());
  return {};
}

OrError<void> write_about(sqlite::Database& database, const DaybookInfo& info) {
  PEAR_ASSIGN(sqlite::Statement insert, database.prepare("INSERT INTO about VALUES (?, ?)"));
  std::vector<std::pair<std::string, std::string>> facts = {{"format_version", std::to_string(info.format)},
                                                            {"fingerprint", info.fingerprint},
                                                            {"shop", info.provenance.shop},
                                                            {"currency", info.provenance.currency},
                                                            {"customers", std::to_string(info.customers)},
                                                            {"orders", std::to_string(info.orders)},
                                                            {"lines", std::to_string(info.lines)},
                                                            {"products", std::to_string(info.products)},
                                                            {"checksum", checksum_of(info)}};
  if (info.provenance.sample > 0) facts.emplace_back("sample", std::to_string(info.provenance.sample));
  for (const auto& [key, value] : facts) PEAR_TRY(insert.bind(1, key).bind(2, value).run());
  return {};
}

OrError<void> write_waiting(sqlite::Database& database, const daybook::MemberList& list) {
  const std::size_t columns = std::min(list.columns.size(), kMostColumns);
  const std::vector<std::string> names(list.columns.begin(),
                                       list.columns.begin() + static_cast<std::ptrdiff_t>(columns));
  PEAR_ASSIGN(sqlite::Statement insert,
              create_members(database, waiting_table(list.level), list.level, names));
  for (std::size_t member = 0; member < list.ids.size(); ++member) {
    insert.bind(1, list.ids[member]);
    for (std::size_t column = 0; column < columns; ++column)
      insert.bind(static_cast<int>(column) + 2, list.values[column][member]);
    PEAR_TRY(insert.run());
  }
  return {};
}

}  // namespace pear::storage
