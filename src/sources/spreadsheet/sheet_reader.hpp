// A sheet of a spreadsheet, as a table.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "sources/ordered_parts.hpp"
#include "sources/spreadsheet/workbook.hpp"
#include "sources/table_address.hpp"

namespace pear::sources {

/// In order, the names of the sheets of an .xlsx or .ods file. Errors: those of SheetReader.
[[nodiscard]] OrError<std::vector<std::string>> sheet_names(const std::string& path,
                                                            std::uint64_t largest_expansion);

/// A table whose header has been read. Then call for_each_part() once. Rows are read while they are
/// decompressed, so a sheet of any size needs the memory of its shared texts and of a few thousand rows.
/// Cells are delivered as text: numbers as plain decimals, dates as ISO 8601, truth values as TRUE and FALSE,
/// formulas as the value that was saved.
class SheetReader {
 public:
  /// Errors: io; data, if it is not a spreadsheet or damaged, if it has no such sheet, or several and the
  /// address chooses none, or if its header_line has no cells.
  [[nodiscard]] static OrError<SheetReader> open(const TableAddress& address);

  /// The first rows with any value, at most `most`. Errors: as open().
  [[nodiscard]] static OrError<std::vector<PlainRow>> first_rows(const TableAddress& address,
                                                                 std::size_t most);

  [[nodiscard]] const std::vector<std::string>& header() const { return header_.cells; }
  [[nodiscard]] const std::string& name() const { return name_; }     ///< "book.xlsx, sheet Sales"
  [[nodiscard]] std::uint64_t bytes_taken() const { return bytes_; }  ///< of the whole file
  /// XXH3 (128 bits, hex) of the file and the name of the sheet.
  [[nodiscard]] const std::string& content_hash() const { return content_hash_; }

  /// As CsvReader::for_each_part, with row numbers instead of lines.
  template <class Convert, class Collect>
  [[nodiscard]] OrError<void> for_each_part(Convert convert, Collect collect) {
    return for_each_ordered_part([&] { return next(); },
                                 [&](SheetPart part) { return rows_of(std::move(part)); }, convert,
                                 [&](auto converted) { collect(std::move(converted), std::uint64_t{0}); });
  }

 private:
  SheetReader() = default;
  /// Opens the sheet; its header has not been read.
  [[nodiscard]] static OrError<SheetReader> open_sheet(const TableAddress& address);
  [[nodiscard]] OrError<void> read_header(std::uint64_t header_line);
  [[nodiscard]] OrError<void> read(SheetPart part, CellSink& into) const;
  [[nodiscard]] OrError<std::optional<SheetPart>> next();
  [[nodiscard]] OrError<CsvRows> rows_of(SheetPart part) const;

  std::unique_ptr<ZipArchive> archive_;  // the others borrow it
  std::unique_ptr<Workbook> workbook_;
  std::unique_ptr<Sheet> sheet_;
  std::optional<SheetPart> first_;  // with the header
  PlainRow header_;
  std::string name_, content_hash_;
  std::uint64_t bytes_ = 0;
};

}  // namespace pear::sources
