// The lines of a daybook in a database, which answers the same questions.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "analysis/options/option.hpp"
#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "pushdown/warehouse.hpp"
#include "result/result.hpp"
#include "support/temporary_folder.hpp"

namespace soci {
class session;
}

namespace pear::test {

/// Where a test's tables are.
struct TestDatabase {
  std::string server;               ///< the address of PostgreSQL; empty for SQLite
  std::vector<std::string> shards;  ///< of servers that have parts of the customers; none for one server
  std::string reader = {};  ///< another address of the same database, to ask it by; empty for the same
};

/// A table of the stored columns of a daybook.
class MadeUpWarehouse {
 public:
  explicit MadeUpWarehouse(const daybook::Daybook& daybook, const TestDatabase& database = {});
  ~MadeUpWarehouse();
  MadeUpWarehouse(const MadeUpWarehouse&) = delete;
  MadeUpWarehouse& operator=(const MadeUpWarehouse&) = delete;

  [[nodiscard]] OrError<result::Result> try_to_ask(const std::string& question,
                                                   const analysis::OptionValues& options) const;
  [[nodiscard]] const pushdown::Warehouse& warehouse() const { return warehouse_; }
  /// The statements of the last question.
  [[nodiscard]] const std::vector<std::string>& statements() const { return statements_; }

 private:
  TemporaryFolder folder_;
  pushdown::Warehouse warehouse_;
  std::unique_ptr<soci::session> session_;
  std::vector<std::unique_ptr<soci::session>> shards_;
  mutable std::vector<std::string> statements_;
};

/// The databases to test a shop with: SQLite; for every second shop PostgreSQL, if there is a server
/// (scripts/with-postgresql); and for every sixth its shards, and PostgreSQL by ODBC, if there are any.
[[nodiscard]] std::vector<TestDatabase> test_databases();

/// A result as text: headline, tables as in their files, notes and checks.
[[nodiscard]] std::string as_text(const OrError<result::Result>& result);

}  // namespace pear::test
