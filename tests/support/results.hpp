// Access to results.
#pragma once

#include <algorithm>
#include <stdexcept>
#include <string>
#include <vector>

#include <rapidcheck.h>

#include "base/decimal.hpp"
#include "result/cell_text.hpp"
#include "result/result.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {

/// The table with this part of its file's name.
inline const result::Table& table(const result::Result& result, const std::string& part) {
  for (const result::Table& each : result.tables)
    if (each.part == part) return each;
  throw std::logic_error("there is no table " + part);
}

/// These columns of a table, as in its file.
inline Cells columns_of(const result::Table& table, const std::vector<std::string>& names) {
  Cells cells(table.rows());
  for (const std::string& name : names) {
    bool found = false;
    for (const result::TableColumn& column : table.columns) {
      if (column.name != name) continue;
      found = true;
      for (std::size_t row = 0; row < table.rows(); ++row)
        cells[row].push_back(result::cell_text(column, row));
    }
    if (!found) throw std::logic_error("there is no column " + name);
  }
  return cells;
}

/// Without the last row, the total of a cross-tabulation.
inline Cells without_total(Cells rows) {
  rows.pop_back();
  return rows;
}

/// The rows in any order.
inline Cells sorted(Cells rows) {
  std::sort(rows.begin(), rows.end());
  return rows;
}

/// Units of Decimal, as SQL sums them, in the form of a file; empty if there are none.
inline std::string money_text(const std::string& units) {
  return units.empty() ? "" : Decimal::from_units(std::stoll(units)).to_text(2);
}

inline void expect_checks_hold(const result::Result& result) {
  RC_ASSERT(!result.checks.empty());
  for (const result::Check& check : result.checks) RC_ASSERT(check.holds);
}

}  // namespace pear::test
