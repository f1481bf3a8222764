// Parses CSV (RFC 4180), a part of a file at a time.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "sources/csv_format.hpp"

struct csv_parser;

namespace pear::sources {

/// A row that is not a row of the table.
struct MalformedRow {
  std::uint64_t line = 0;  ///< lines of the file before it, counted from where the parser began
  std::string reason;      ///< "has 5 fields where the header has 6"
  std::string kind;        ///< the common part of the reason: "has too few fields"
  std::string text;        ///< the row, as CSV
  std::string first;       ///< its first value that is not empty
};

/// Rows of equal width, their fields one after another in one block of bytes. Rows without any value are left
/// out.
struct CsvRows {
  std::size_t columns = 0;
  std::string bytes;
  std::vector<std::uint32_t> ends;   ///< of each field, in `bytes`
  std::vector<std::uint64_t> lines;  ///< per row: lines of the file before it, from where the parser began
  std::vector<MalformedRow> malformed;
  std::vector<std::uint8_t>
      typed;             ///< of each field: 1 if a spreadsheet contains it as a number or date, which is
                         ///< then in plain or ISO form, independent of the format of texts; empty if none is
  bool is_ascii = true;  ///< no byte of the text is above 127, so its encoding needs no check

  [[nodiscard]] std::size_t size() const { return lines.size(); }
  [[nodiscard]] std::string_view field(std::size_t row, std::size_t column) const {
    const std::size_t at = row * columns + column;
    const std::uint32_t begin = at == 0 ? 0 : ends[at - 1];
    return {bytes.data() + begin, ends[at] - begin};
  }
  [[nodiscard]] bool is_typed(std::size_t row, std::size_t column) const {
    return !typed.empty() && typed[row * columns + column] != 0;
  }
  /// The row's first value that is not empty.
  [[nodiscard]] std::string_view first_value(std::size_t row) const;
  /// The row as one CSV record, fields quoted where they need it.
  [[nodiscard]] std::string record(std::size_t row, char delimiter) const;
};

/// An incremental parser over libcsv. It begins at the beginning of a row; feed it parts of the text, each
/// ending in a line feed or with the text; take the rows that are complete.
class CsvParser {
 public:
  CsvParser(CsvFormat format, std::size_t columns);
  ~CsvParser();
  CsvParser(const CsvParser&) = delete;
  CsvParser& operator=(const CsvParser&) = delete;

  void feed(std::string_view part);
  /// Ends the text: completes a last row without line feed.
  void finish();

  /// True where the text fed so far ends with a row; false within a quoted field.
  [[nodiscard]] bool at_row_end() const { return at_row_end_; }
  /// Line feeds so far, those within quoted fields included.
  [[nodiscard]] std::uint64_t lines() const { return lines_; }
  /// The line on which the unfinished row begins, and the number of its bytes so far.
  [[nodiscard]] std::uint64_t row_line() const { return row_line_; }
  [[nodiscard]] std::size_t unfinished_bytes() const;

  [[nodiscard]] CsvRows take();

 private:
  /// `text` is in libcsv's buffer.
  void on_field(std::string_view text);
  void on_row_end(int terminator);
  void reject_row(std::string reason, std::string kind);
  void parse(std::string_view part);

  void make_room(std::size_t text_bytes);

  CsvFormat format_;
  std::unique_ptr<csv_parser> parser_;
  CsvRows rows_;
  std::size_t used_ = 0;       // bytes of rows_.bytes that hold fields; the rest is room
  std::size_t row_begin_ = 0;  // index in rows_.ends of the first field of the unfinished row
  std::uint64_t lines_ = 0;
  std::uint64_t row_line_ = 0;
  std::uint64_t row_ends_ = 0;  // calls of on_row_end, to see whether the last byte ended a row
  bool after_carriage_return_ = false;
  bool may_hold_line_feeds_ = false;
  bool at_row_end_ = true;
};

/// A row as it is, with the line or the row of the sheet where it begins, from 1.
struct PlainRow {
  std::uint64_t number = 0;
  std::vector<std::string> cells;  ///< up to the last that is not empty
};

/// The first rows of a text that have any value, at most `most`. A last row that the text cuts is one of
/// them.
[[nodiscard]] std::vector<PlainRow> split_rows(std::string_view text, CsvFormat format, std::size_t most);

/// The number of fields of each of the first rows of a text, `most` rows at most; a last row that the text
/// cuts is not counted unless it is the only one.
[[nodiscard]] std::vector<std::size_t> count_fields(std::string_view text, CsvFormat format,
                                                    std::size_t most);

/// The first of these that is not empty; empty if all are.
[[nodiscard]] std::string_view first_filled(const std::vector<std::string_view>& fields);

/// Fields as one CSV record without line end, quoted where they need it.
[[nodiscard]] std::string csv_record(const std::vector<std::string_view>& fields, char delimiter);

}  // namespace pear::sources
