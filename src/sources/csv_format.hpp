// Which CSV this is.
#pragma once

#include <string_view>

#include "base/error.hpp"

namespace pear {

struct CsvFormat {
  char delimiter = ',';
};

/// The delimiter among comma, semicolon, tab and bar under which the rows of the sample agree best in their
/// number of fields. `sample` is the beginning of a file, without byte order mark; comma where it has one
/// column only.
[[nodiscard]] CsvFormat detect_format(std::string_view sample);

/// The sample without its UTF-8 byte order mark. Error: data, where the mark or the bytes tell that the text
/// is UTF-16, which `name` is then said to be.
[[nodiscard]] OrError<std::string_view> without_byte_order_mark(std::string_view sample,
                                                                std::string_view name);

}  // namespace pear
