// The cells of a cross-tabulation, found by their rows and columns.
#pragma once

#include <map>
#include <string>
#include <vector>

#include <absl/strings/str_join.h>

#include "result/cell_text.hpp"
#include "result/table.hpp"

namespace pear::test {

/// Every cell of the wide table by "place down | place across figure".
inline std::map<std::string, std::string> cells_by_place(const result::Table& table, std::size_t down) {
  std::map<std::string, std::string> cells;
  for (std::size_t row = 0; row < table.rows(); ++row) {
    std::vector<std::string> labels;
    for (std::size_t i = 0; i < down; ++i) {
      if (!result::cell_text(table.columns[i], row).empty())
        labels.push_back(result::cell_text(table.columns[i], row));
    }
    for (std::size_t i = down; i < table.columns.size(); ++i)
      cells[absl::StrJoin(labels, " / ") + " | " + table.columns[i].name] =
          result::cell_text(table.columns[i], row);
  }
  return cells;
}

}  // namespace pear::test
