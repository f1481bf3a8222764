// A second opinion: the same question in SQL, over the same lines in SQLite.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "result/table.hpp"
#include "support/random_shop.hpp"

namespace pear::test {

using Cells = std::vector<std::vector<std::string>>;

/// The rows that a file of bench/sql gives over the sales; `window` is put for :window, NULL where there is
/// none.
[[nodiscard]] Cells ask_sql(const Sales& sales, const std::string& sql_file,
                            std::optional<int> window = std::nullopt);

/// A table as its CSV file would say it, without header.
[[nodiscard]] Cells cells_of(const Table& table);

}  // namespace pear::test
