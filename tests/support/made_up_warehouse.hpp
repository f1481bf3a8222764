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

/// A table of the stored columns of a daybook, in SQLite or, with the address of a server, in PostgreSQL.
class MadeUpWarehouse {
 public:
  explicit MadeUpWarehouse(const daybook::Daybook& daybook, const std::string& server = "");
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
  mutable std::vector<std::string> statements_;
};

/// The addresses of the databases to test with: "" for SQLite, and that of PEAR_TEST_POSTGRESQL if there is
/// one.
[[nodiscard]] std::vector<std::string> test_databases();

/// A result as text: headline, tables as in their files, notes and checks.
[[nodiscard]] std::string as_text(const OrError<result::Result>& result);

}  // namespace pear::test
