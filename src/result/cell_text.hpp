// The texts of cells in files: exact, no separators; empty for no value.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "result/table.hpp"

namespace pear::result {

/// Money has at least two places, shares have six, probabilities six digits; dates are as 2024-09-30.
[[nodiscard]] std::string cell_text(const TableColumn& column, std::size_t row);

/// The cells of a column, some rows at a time: for writers of large tables.
class CellReader {
 public:
  /// The column must outlive the reader.
  explicit CellReader(const TableColumn& column) : column_(column) {}

  /// Computes the values of rows `begin` to `end`.
  void read(std::size_t begin, std::size_t end);
  [[nodiscard]] bool is_text() const { return column_.unit == Unit::text; }
  /// For texts: the cell of a row that was read, valid until others are.
  [[nodiscard]] std::string_view text(std::size_t row) const { return texts_[row - begin_]; }
  /// For all others: writes the cell of a row that was read, and returns its end. `to` needs room for
  /// kLongest.
  char* write(char* to, std::size_t row) const;
  static constexpr std::size_t kLongest = 400;  ///< a share may be any number: 309 digits and six places

 private:
  const TableColumn& column_;
  std::size_t begin_ = 0;
  std::vector<std::int64_t> integers_;
  std::vector<double> fractions_;
  std::vector<std::string_view> texts_;
  std::vector<std::string> composed_;
};

}  // namespace pear::result
