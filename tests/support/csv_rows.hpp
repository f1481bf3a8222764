// Reading the CSV files that the program wrote.
#pragma once

#include <map>
#include <sstream>
#include <string>
#include <vector>

#include <gtest/gtest.h>

#include "support/temporary_folder.hpp"

namespace pear::test {

using Rows = std::vector<std::map<std::string, std::string>>;

inline std::vector<std::string> split(const std::string& line) {
  std::vector<std::string> cells(1);
  bool quoted = false;
  for (const char c : line) {
    if (c == '"')
      quoted = !quoted;
    else if (c == ',' && !quoted)
      cells.emplace_back();
    else
      cells.back() += c;
  }
  return cells;
}

/// The rows of a CSV file without line breaks in its cells, by the names of its header.
inline Rows rows_of(const std::string& path) {
  std::istringstream lines(read_file(path));
  std::string line;
  std::getline(lines, line);
  const std::vector<std::string> names = split(line);
  Rows rows;
  while (std::getline(lines, line)) {
    const std::vector<std::string> cells = split(line);
    EXPECT_EQ(cells.size(), names.size()) << path << ": " << line;
    rows.emplace_back();
    for (std::size_t i = 0; i < cells.size() && i < names.size(); ++i) rows.back()[names[i]] = cells[i];
  }
  return rows;
}

}  // namespace pear::test
