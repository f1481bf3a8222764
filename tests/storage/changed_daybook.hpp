// Changes of a daybook's file by SQL.
#pragma once

#include <string>

#include <gtest/gtest.h>
#include <sqlite3.h>

#include "daybook/provenance.hpp"

namespace pear::test {

inline const daybook::Provenance kProvenance{"Shop",
                                             "EUR",
                                             {{"sales.csv", "lines", 123, "abc", 10, 7, 1, 2}},
                                             {{"rejected: quantity is empty", 1}},
                                             {}};

inline void execute(const std::string& path, const char* sql) {
  sqlite3* database = nullptr;
  sqlite3_open(path.c_str(), &database);
  ASSERT_EQ(sqlite3_exec(database, sql, nullptr, nullptr, nullptr), SQLITE_OK) << sqlite3_errmsg(database);
  sqlite3_close(database);
}

/// Turns a daybook into one of format 2, whose description has no checksum and no runs.
inline constexpr const char* kAsFormat2 =
    "UPDATE about SET value = '2' WHERE key = 'format_version'; DROP TABLE import_runs;"
    "CREATE TABLE import_runs (run INTEGER PRIMARY KEY, source, bytes, content_hash, table_name, rows_read,"
    " rows_kept, rows_duplicate, rows_rejected);"
    "INSERT INTO import_runs SELECT position, source, bytes, content_hash, table_name, rows_read, rows_kept,"
    " rows_duplicate, rows_rejected FROM sources; DROP TABLE sources";

}  // namespace pear::test
