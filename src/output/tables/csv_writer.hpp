// Tables as CSV (RFC 4180, UTF-8, line feeds).
#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"
#include "files/atomic_file.hpp"
#include "result/table.hpp"

namespace pear::output {

/// What happens to a text that a spreadsheet would take for a formula: one that begins with = + - @, a tab or
/// a carriage return. Figures are never changed.
enum class Formulas : std::uint8_t {
  keep,    ///< stays as it is: the same text as in the data
  as_text  ///< gets an apostrophe at its front, which makes it text in a spreadsheet
};

struct CsvStyle {
  Formulas formulas = Formulas::keep;
  bool byte_order_mark = false;  ///< for spreadsheets that do not recognise UTF-8 otherwise
};

/// What a file in this style begins with.
[[nodiscard]] std::string_view csv_beginning(const CsvStyle& style);

/// Appends a field, quoted if necessary.
void append_csv_field(std::string& line, std::string_view field);

/// One record with its line feed.
[[nodiscard]] std::string csv_line(const std::vector<std::string_view>& fields);

/// The field of a text according to the policy.
[[nodiscard]] std::string csv_text(std::string_view text, Formulas formulas);

/// The header and all rows, exact values (see cell_text). `written` is called with the number of rows so far,
/// from any thread, but one at a time.
[[nodiscard]] OrError<void> write_csv(const result::Table& table, files::AtomicFile& file,
                                      const CsvStyle& style = {},
                                      const std::function<void(std::size_t rows)>& written = {});

}  // namespace pear::output
