#include "analysis/side_table.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::analysis {

std::size_t SideTable::column(std::string_view name) const {
  const auto found = std::find_if(header.begin(), header.end(),
                                  [&](const std::string& each) { return snake_case(each) == name; });
  return static_cast<std::size_t>(found - header.begin());
}

OrError<void> SideTable::require(std::string_view what,
                                 std::initializer_list<std::string_view> columns) const {
  if (std::all_of(columns.begin(), columns.end(), [&](std::string_view name) { return has(name); }))
    return {};
  std::string names;
  std::size_t left = columns.size();
  for (const std::string_view name : columns) {
    names += name;
    if (--left > 0) names += left == 1 ? " and " : ", ";
  }
  return data_error(
      fmt::format("{}: {} needs the columns {}; this one has {}.", file, what, names, join(header, ", ")));
}

std::string SideTable::place_of(std::size_t row) const { return fmt::format("{} line {}", file, lines[row]); }

std::string SideTable::place_of(std::size_t row, std::size_t column) const {
  return fmt::format("{}, column {}", place_of(row), header[column]);
}

}  // namespace pear::analysis
