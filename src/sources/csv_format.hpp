// Detects the form of a CSV file.
#pragma once

#include <string_view>

namespace pear::sources {

struct CsvFormat {
  char delimiter = ',';
};

/// The delimiter among comma, semicolon, tab and bar with which most rows of the sample have as many fields
/// as the first; if that is a title above the header, as many as one another. `sample` is the beginning of a
/// file, without byte order mark; comma if it has one column only.
[[nodiscard]] CsvFormat detect_format(std::string_view sample);

/// The beginning of a text without its UTF-8 byte order mark.
[[nodiscard]] std::string_view without_byte_order_mark(std::string_view text);

}  // namespace pear::sources
