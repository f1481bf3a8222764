// A second opinion: the same question in SQL, over the same lines in SQLite.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "result/table.hpp"
#include "support/random_shop.hpp"

struct sqlite3;

namespace pear::test {

using Cells = std::vector<std::vector<std::string>>;

/// The rows that a file of bench/sql gives over the sales; `window` replaces :window, NULL if there is none.
[[nodiscard]] Cells ask_sql(const Sales& sales, const std::string& sql_file,
                            std::optional<int> window = std::nullopt);

/// All lines of a daybook with its derived columns in a table `lines` of SQLite: empty values as NULL,
/// decimals as REAL and, as NAME_u, in whole units of Decimal; truth values as 0 and 1. share(part, whole) is
/// the text of a share as in files.
class LinesInSql {
 public:
  explicit LinesInSql(const daybook::Daybook& daybook);
  ~LinesInSql();
  LinesInSql(const LinesInSql&) = delete;
  LinesInSql& operator=(const LinesInSql&) = delete;
  [[nodiscard]] Cells ask(const std::string& sql) const;

 private:
  sqlite3* database_ = nullptr;
};

/// A table as in its CSV file, without header.
[[nodiscard]] Cells cells_of(const result::Table& table);

}  // namespace pear::test
