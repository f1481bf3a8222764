// From the cells of a sheet to rows.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "sources/csv_chunk.hpp"

namespace pear::sources {

/// A sheet has at most this many rows and columns (ECMA-376, part 1, 18.17.2.1).
constexpr std::uint64_t kMostSheetRows = 1'048'576, kMostSheetColumns = 16'384;

/// Receives the cells of rows.
class CellSink {
 public:
  virtual ~CellSink() = default;
  /// From left to right. `is_typed`: the cell contains a number or a date, not a text.
  virtual void cell(std::size_t column, std::string_view text, bool is_typed) = 0;
  /// Ends row `number`, counted from 1.
  virtual void end_row(std::uint64_t number) = 0;
};

/// Rows as they are, up to a number of them.
class FirstRows final : public CellSink {
 public:
  explicit FirstRows(std::size_t most) : most_(most) {}
  void cell(std::size_t column, std::string_view text, bool is_typed) override;
  void end_row(std::uint64_t number) override;
  /// Those with any value.
  [[nodiscard]] const std::vector<PlainRow>& rows() const { return rows_; }

 private:
  std::size_t most_;
  std::vector<PlainRow> rows_;
  std::vector<std::string> cells_;
};

/// The rows below a header. Rows without cells are left out; missing cells are empty fields; a row with a
/// cell to the right of the header is malformed.
class SheetRows final : public CellSink {
 public:
  SheetRows(std::size_t columns, std::uint64_t header_row) : header_row_(header_row) {
    rows_.columns = columns;
  }
  void cell(std::size_t column, std::string_view text, bool is_typed) override;
  void end_row(std::uint64_t number) override;
  /// Lines are row numbers.
  [[nodiscard]] CsvRows take();

 private:
  void add_row(std::uint64_t number);
  void add_malformed(std::uint64_t number);

  std::uint64_t header_row_;
  CsvRows rows_;
  std::string bytes_;  // of the unfinished row
  std::vector<std::uint32_t> ends_;
  std::vector<std::uint8_t> typed_;
};

}  // namespace pear::sources
