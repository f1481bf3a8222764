// A table from outside: a text file, a sheet of a spreadsheet, or a database.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <variant>
#include <vector>

#include "base/error.hpp"
#include "sources/csv_reader.hpp"
#include "sources/encoding.hpp"
#include "sources/query_reader.hpp"
#include "sources/spreadsheet/sheet_reader.hpp"
#include "sources/table_address.hpp"

namespace pear::sources {

/// The tables of a file on the command line: each sheet of a spreadsheet with several, or the file itself.
/// Errors: those of sheet_names.
[[nodiscard]] OrError<std::vector<TableAddress>> tables_of_file(const std::string& word);

/// A table whose header has been read. A source without any content has an empty header.
class TableReader {
 public:
  /// Errors: those of CsvReader, QueryReader, SheetReader, open_text and parse_database_address; data, if the
  /// file is neither text nor a spreadsheet.
  [[nodiscard]] static OrError<TableReader> open(const TableAddress& address);

  /// Over text that is open already, as UTF-8; `encoding` is its original encoding. Of the address, only what
  /// describes the text is used.
  [[nodiscard]] static OrError<TableReader> over(std::unique_ptr<ByteSource> text, Encoding encoding,
                                                 const TableAddress& address);

  [[nodiscard]] const std::vector<std::string>& header() const;
  [[nodiscard]] const std::string& name() const;
  [[nodiscard]] char delimiter() const;
  [[nodiscard]] std::optional<Encoding> encoding() const { return encoding_; }  ///< of a text file
  [[nodiscard]] std::uint64_t bytes_taken() const;
  [[nodiscard]] std::uint64_t bytes_in_all() const;  ///< 0 where unknown
  [[nodiscard]] std::string content_hash() const;

  /// See CsvReader::for_each_part.
  template <class Convert, class Collect>
  [[nodiscard]] OrError<void> for_each_part(Convert convert, Collect collect) {
    return std::visit([&](auto& reader) { return reader.for_each_part(convert, collect); }, reader_);
  }

 private:
  using Reader = std::variant<CsvReader, QueryReader, SheetReader>;
  TableReader(Reader reader, std::optional<Encoding> encoding)
      : reader_(std::move(reader)), encoding_(encoding) {}
  Reader reader_;
  std::optional<Encoding> encoding_;
};

}  // namespace pear::sources
