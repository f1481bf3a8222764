// Which CSV this is.
#pragma once

#include <string_view>

namespace pear::sources {

struct CsvFormat {
  char delimiter = ',';
};

/// The delimiter among comma, semicolon, tab and bar under which the rows of the sample agree best in their
/// number of fields. `sample` is the beginning of a file, without byte order mark; comma where it has one
/// column only.
[[nodiscard]] CsvFormat detect_format(std::string_view sample);

/// The beginning of a text without its mark that it is UTF-8.
[[nodiscard]] std::string_view without_byte_order_mark(std::string_view text);

}  // namespace pear::sources
