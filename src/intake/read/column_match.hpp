// The columns of a further source of a table, by name.
#pragma once

#include <cstddef>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "intake/read/table_columns.hpp"

namespace pear::intake {

/// Compares each source of a table with the first one, which names the columns.
class ColumnMatch {
 public:
  explicit ColumnMatch(const TableColumns& first) : kind_(first.table), columns_(first.columns) {}

  /// For each column its position in the plan of a source. Error: data, if the names differ.
  [[nodiscard]] OrError<std::vector<std::size_t>> places(const TableColumns& plan, const std::string& source);
  [[nodiscard]] const std::vector<PlannedColumn>& columns() const { return columns_; }

 private:
  TableKind kind_;
  std::vector<PlannedColumn> columns_;
  std::string first_source_;
};

}  // namespace pear::intake
