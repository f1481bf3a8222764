// Tables of databases.
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <sqlite3.h>

#include "sources/table_reader.hpp"
#include "support/random_shop.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

/// Runs SQL in an SQLite file of the folder; returns its address.
std::string make_database(const TemporaryFolder& folder, const std::string& sql) {
  sqlite3* database = nullptr;
  sqlite3_open((folder / "shop.db").c_str(), &database);
  char* fault = nullptr;
  EXPECT_EQ(sqlite3_exec(database, ("PRAGMA synchronous = OFF; BEGIN; " + sql + "; COMMIT").c_str(), nullptr,
                         nullptr, &fault),
            SQLITE_OK)
      << (fault != nullptr ? fault : "");
  sqlite3_close(database);
  return "sqlite:///" + folder / "shop.db";
}

struct ReadQuery {
  std::vector<std::string> header;
  std::vector<std::vector<std::string>> rows;
  std::string hash, name, fault;
  std::uint64_t last_row = 0, bytes = 0;
};

ReadQuery read(const std::string& database, const std::string& query, const std::string& table = "") {
  sources::TableAddress address;
  address.database = database;
  address.query = query;
  address.table = table;
  auto reader = sources::TableReader::open(address);
  if (!reader) return {{}, {}, "", "", reader.error().message};
  ReadQuery result{reader->header(), {}, "", reader->name(), ""};
  const auto outcome = reader->for_each_part([](sources::CsvRows part) { return part; },
                                             [&](const sources::CsvRows& part, std::uint64_t first) {
                                               for (std::size_t row = 0; row < part.size(); ++row) {
                                                 result.rows.emplace_back();
                                                 result.last_row = first + part.lines[row];
                                                 for (std::size_t i = 0; i < part.columns; ++i)
                                                   result.rows.back().emplace_back(part.field(row, i));
                                               }
                                             });
  if (!outcome) result.fault = outcome.error().message;
  result.hash = reader->content_hash();
  result.bytes = reader->bytes_taken();
  return result;
}

/// A text as SQL writes it; NULL for an empty one.
std::string literal(const std::string& text) {
  if (text.empty()) return "NULL";
  std::string quoted = "'";
  for (const char c : text) quoted += c == '\'' ? "''" : std::string(1, c);
  return quoted + "'";
}

RC_GTEST_PROP(Queries, GiveEveryValueAsText, ()) {
  const TemporaryFolder folder;
  std::string sql = "CREATE TABLE t (\"Order no\" TEXT, \"a \"\"b\"\"\" TEXT, n NUMERIC);";
  std::vector<std::vector<std::string>> rows(static_cast<std::size_t>(pick(0, 20)));
  for (auto& row : rows) {
    for (int i = 0; i < 2; ++i)
      row.push_back(*rc::gen::element<std::string>("", "A-1", "it's", "line\nbreak", "J\xC3\xB6rn", " blank ",
                                                   "a,\"b\";c"));
    row.push_back(pick(0, 3) == 0 ? "" : fmt::format("{}", pick(-1'000'000, 1'000'000)));
    sql += fmt::format("INSERT INTO t VALUES ({}, {}, {});", literal(row[0]), literal(row[1]),
                       row[2].empty() ? "NULL" : row[2]);
  }
  const std::string database = make_database(folder, sql);
  const ReadQuery whole = read(database, "SELECT * FROM t ORDER BY rowid");
  RC_ASSERT(whole.fault.empty());
  RC_ASSERT(whole.header == (std::vector<std::string>{"Order no", "a \"b\"", "n"}));
  RC_ASSERT(whole.rows == rows);
  RC_ASSERT(whole.last_row == rows.size());
  std::uint64_t bytes = 0;
  for (const auto& row : rows)
    for (const std::string& cell : row) bytes += cell.size();
  RC_ASSERT(whole.bytes == bytes);
  // The hash is that of the rows, so that an unchanged source can be left out.
  RC_ASSERT(whole.hash == read(database, "SELECT * FROM t ORDER BY rowid").hash);
  if (rows.size() > 1 && rows.front() != rows.back())
    RC_ASSERT(whole.hash != read(database, "SELECT * FROM t ORDER BY rowid DESC").hash);
}

TEST(Queries, HashDistinguishesWhereOneValueEnds) {
  const TemporaryFolder folder;
  const std::string database = make_database(folder, "CREATE TABLE t (x TEXT)");
  EXPECT_NE(read(database, "SELECT 'ab' AS x, 'c' AS y").hash,
            read(database, "SELECT 'a' AS x, 'bc' AS y").hash);
}

TEST(Queries, LargeTablesArriveInPartsWithRisingRowNumbers) {
  const TemporaryFolder folder;
  const std::string database = make_database(folder, "CREATE TABLE t (x TEXT)");
  const ReadQuery many = read(
      database,
      "WITH RECURSIVE n (x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n WHERE x < 20000) SELECT x FROM n");
  ASSERT_EQ(many.rows.size(), 20'000U);
  EXPECT_EQ(many.rows.back().front(), "20000");
  EXPECT_EQ(many.last_row, 20'000U);
  const ReadQuery wide = read(database,
                              "WITH RECURSIVE n (x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n WHERE x < 40) "
                              "SELECT x, hex(zeroblob(500000)) AS filler FROM n");
  ASSERT_EQ(wide.rows.size(), 40U);
  EXPECT_EQ(wide.rows.back()[1].size(), 1'000'000U);
}

TEST(Queries, FaultsNameTheDatabaseWithoutTheStatement) {
  const TemporaryFolder folder;
  const std::string database = make_database(folder, "CREATE TABLE t (x TEXT)");
  const std::string shown = folder / "shop.db";
  EXPECT_EQ(read(database, "SELECT * FROM missing").fault,
            "cannot read from " + shown + ": no such table: missing.");
  EXPECT_EQ(read(database, "SELECT x AS y FROM t", "t").name, shown + ", table t");
  EXPECT_EQ(read(database, "SELECT x FROM t").name, shown);
  EXPECT_EQ(read("sqlite:///" + folder / "none.db", "SELECT 1").fault,
            "cannot read " + folder / "none.db" + ": there is no such file.");
}

}  // namespace
}  // namespace pear::test
