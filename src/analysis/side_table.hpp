// Tables that the user gives next to the daybook.
#pragma once

#include <cstdint>
#include <initializer_list>
#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"

namespace pear::analysis {

/// A table from a file next to the daybook, as texts.
struct SideTable {
  std::string file;  ///< for messages
  std::vector<std::string> header;
  std::vector<std::vector<std::string>> rows;
  std::vector<std::uint64_t> lines;  ///< of the file, by row

  /// The position of a column, by its name in snake_case; the number of columns if there is none.
  [[nodiscard]] std::size_t column(std::string_view name) const;
  [[nodiscard]] bool has(std::string_view name) const { return column(name) < header.size(); }
  /// Error: data, if one of them is missing. `what` the table is: "a stock list".
  [[nodiscard]] OrError<void> require(std::string_view what,
                                      std::initializer_list<std::string_view> columns) const;
  /// "stock.csv line 12", for messages.
  [[nodiscard]] std::string place_of(std::size_t row) const;
  /// "stock.csv line 12, column Pieces", for messages.
  [[nodiscard]] std::string place_of(std::size_t row, std::size_t column) const;
};

}  // namespace pear::analysis
