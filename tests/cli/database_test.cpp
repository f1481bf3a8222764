// One source in many forms: the same daybook.
#include <cstdlib>

#include <gtest/gtest.h>

#include "database/connection.hpp"
#include "storage/daybook_reader.hpp"
#include "support/made_up_shop.hpp"

namespace pear::test {
namespace {

class Databases : public testing::Test {
 protected:
  Databases() {
    make_shop_files(folder_, "d", 2'000, true);
    EXPECT_EQ(run_pear(folder_, {"import", "d/sales.csv", "--daybook", "csv.daybook", "--quiet"}).exit_code,
              0);
  }
  std::string fingerprint(const std::string& daybook) {
    return storage::DaybookFile::open(folder_ / daybook)->info().fingerprint;
  }

  /// Puts the sales into a table as text, then imports it.
  void expect_same_daybook(const std::string& address) {
    load(address);
    folder_.write("db.toml", "[lines]\ndatabase = \"" + address + "\"\ntable = \"sales\"\n");
    const ProgramRun run = run_pear(folder_, {"import", "db.toml", "--daybook", "db.daybook"});
    ASSERT_EQ(run.exit_code, 0) << run.err;
    EXPECT_EQ(fingerprint("db.daybook"), fingerprint("csv.daybook"));
    const char* more = address.find('?') == std::string::npos ? "?table=sales" : "&table=sales";
    const ProgramRun look = run_pear(folder_, {"inspect", address + more});
    EXPECT_NE(look.out.find("With this intake file, 2,000 of 2,000 rows would become lines"),
              std::string::npos)
        << look.out << look.err;
    expect_whole_texts(address);
  }

  /// A text of 10,000 characters is read whole; over ODBC it is an error.
  void expect_whole_texts(const std::string& address) {
    database::DatabaseAddress parsed = *database::parse_database_address(address);
    const bool is_limited = parsed.kind == database::DatabaseKind::odbc;
    if (parsed.kind == database::DatabaseKind::sqlite) parsed.connection = folder_ / parsed.connection;
    auto session = *database::connect(parsed, true);
    const std::string text(10'000, 'x');
    *session << "DROP TABLE IF EXISTS long_texts";
    *session << "CREATE TABLE long_texts (order_id TEXT, order_date TEXT, customer_id TEXT, product_id TEXT, "
                "quantity TEXT, unit_price TEXT, remark TEXT)";
    *session << "INSERT INTO long_texts VALUES ('A1', '2024-01-01', 'C1', 'P1', '1', '2', '" + text + "')";
    folder_.write("long.toml", "[lines]\ndatabase = \"" + address + "\"\ntable = \"long_texts\"\n");
    const ProgramRun run = run_pear(folder_, {"import", "long.toml"});
    if (is_limited) {
      EXPECT_EQ(run.exit_code, 3);
      EXPECT_NE(run.err.find("column remark: a text is as long as 255 characters, where ODBC drivers cut"),
                std::string::npos)
          << run.err;
    } else {
      EXPECT_EQ(run_pear(folder_, {"export", "long.daybook", "--into", "long.csv"}).exit_code, 0);
      EXPECT_NE(read_file(folder_ / "long.csv").find("," + text + ","), std::string::npos) << run.err;
    }
    *session << "DROP TABLE long_texts";
  }

  void load(const std::string& address) {
    database::DatabaseAddress parsed = *database::parse_database_address(address);
    if (parsed.kind == database::DatabaseKind::sqlite && !parsed.connection.starts_with('/'))
      parsed.connection = folder_ / parsed.connection;
    auto session = *database::connect(parsed, true);
    const std::string text = read_file(folder_ / "d/sales.csv");
    *session << "DROP TABLE IF EXISTS sales";
    std::string columns = text.substr(0, text.find('\n'));
    std::string definition;
    for (std::size_t at = 0; at < columns.size();) {
      const std::size_t comma = std::min(columns.find(',', at), columns.size());
      definition += (at > 0 ? ", " : "") + columns.substr(at, comma - at) + " VARCHAR(200)";
      at = comma + 1;
    }
    *session << "CREATE TABLE sales (" + definition + ")";
    soci::transaction transaction(*session);
    for (std::size_t at = text.find('\n') + 1; at < text.size();) {
      const std::size_t end = text.find('\n', at);
      std::string row = text.substr(at, end - at), values = "'";
      for (const char c : row) values += c == ',' ? "', '" : std::string(1, c);
      *session << "INSERT INTO sales VALUES (" + values + "')";
      at = end + 1;
    }
    transaction.commit();
  }
  const TemporaryFolder folder_;
};

TEST_F(Databases, CompressedFilesAndSqliteGiveTheSameDaybook) {
  ASSERT_EQ(std::system(("cd '" + folder_.path() + "/d' && gzip -k sales.csv && zstd -q sales.csv").c_str()),
            0);
  for (const char* file : {"d/sales.csv.gz", "d/sales.csv.zst"}) {
    EXPECT_EQ(run_pear(folder_, {"import", file, "--daybook", "z.daybook", "--quiet"}).exit_code, 0);
    EXPECT_EQ(fingerprint("z.daybook"), fingerprint("csv.daybook"));
  }
  expect_same_daybook("sqlite:///shop.db");
}

TEST_F(Databases, OdbcGivesTheSameDaybook) {
  if (std::system("odbcinst -q -d -n SQLite3 >/dev/null 2>&1") != 0)
    GTEST_SKIP() << "no ODBC driver named SQLite3 is installed";
  expect_same_daybook("odbc:Driver=SQLite3;Database=" + folder_.path() + "/odbc.db");
}

TEST_F(Databases, PostgresqlGivesTheSameDaybook) {
  const char* address = std::getenv("PEAR_TEST_POSTGRESQL");
  if (address == nullptr)
    GTEST_SKIP() << "no PostgreSQL: PEAR_TEST_POSTGRESQL is not set (see scripts/with-postgresql)";
  expect_same_daybook(address);
  const ProgramRun run =
      run_pear(folder_, {"export", "csv.daybook", "--into", std::string(address) + "&table=lines"});
  EXPECT_EQ(run.exit_code, 0) << run.err;
  auto session = *database::connect(*database::parse_database_address(address), false);
  int rows = 0;
  *session << "SELECT COUNT(*) FROM lines WHERE cost IS NULL OR margin = amount - cost", soci::into(rows);
  EXPECT_EQ(rows, 2000);
  *session << "DROP TABLE lines";
  *session << "DROP TABLE sales";
}

TEST_F(Databases, DatabaseErrorsAreReportedOnOneLine) {
  const auto fault = [&](const std::string& intake) {
    folder_.write("bad.toml", intake);
    const ProgramRun run = run_pear(folder_, {"import", "bad.toml"});
    EXPECT_EQ(std::count(run.err.begin(), run.err.end(), '\n'), 1) << run.err;
    return std::to_string(run.exit_code) + run.err.substr(std::string("pear-thread: error").size(), 60);
  };
  EXPECT_EQ(fault("[lines]\ndatabase = \"none.db\"\ntable = \"t\"\n"),
            "4: cannot read none.db: there is no such file.\n");
  load("sqlite:///shop.db");
  EXPECT_EQ(fault("[lines]\ndatabase = \"shop.db\"\ntable = \"no_such\"\n").substr(0, 29),
            "4: cannot read from shop.db: ");
  EXPECT_EQ(
      fault("[lines]\ndatabase = \"postgresql://nobody@localhost:1/none\"\ntable = \"t\"\n").substr(0, 21),
      "4: cannot connect to ");
}

}  // namespace
}  // namespace pear::test
