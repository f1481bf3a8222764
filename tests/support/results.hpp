// Looking into results.
#pragma once

#include <stdexcept>
#include <string>
#include <vector>

#include <rapidcheck.h>

#include "result/result.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {

/// The table with this part of its file's name.
inline const Table& table(const Result& result, const std::string& part) {
  for (const Table& each : result.tables)
    if (each.part == part) return each;
  throw std::logic_error("there is no table " + part);
}

/// These columns of a table, as its file would say them.
inline Cells columns_of(const Table& table, const std::vector<std::string>& names) {
  Cells cells(table.rows());
  for (const std::string& name : names) {
    bool found = false;
    for (const TableColumn& column : table.columns) {
      if (column.name != name) continue;
      found = true;
      for (std::size_t row = 0; row < table.rows(); ++row) cells[row].push_back(cell_text(column, row));
    }
    if (!found) throw std::logic_error("there is no column " + name);
  }
  return cells;
}

inline void expect_checks_hold(const Result& result) {
  RC_ASSERT(!result.checks.empty());
  for (const Check& check : result.checks) RC_ASSERT(check.holds);
}

}  // namespace pear::test
