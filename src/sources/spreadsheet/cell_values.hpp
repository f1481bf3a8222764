// The values of spreadsheet cells, as text.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

namespace pear::sources {

/// What the number format of a cell makes of its number.
enum class CellFormat : std::uint8_t { number, date, time };

/// The format of a number format code, such as "dd/mm/yyyy" or "#,##0.00 [$EUR]" (ECMA-376, part 1, 18.8.31).
[[nodiscard]] CellFormat format_of_code(std::string_view code);
/// The format of one of the numbers below 164, whose codes are not written in the file (18.8.30).
[[nodiscard]] CellFormat format_of_builtin(unsigned number);

/// Whether a number is in plain decimal form already, with no more digits than spreadsheets calculate with.
[[nodiscard]] bool is_plain_number(std::string_view text);

/// A number as the file contains it ("1E-3", "0.30000000000000004") as a plain decimal of the 15 digits that
/// spreadsheets calculate with: "0.001", "0.3". A text that is not a number stays as it is.
[[nodiscard]] std::string number_text(std::string_view number);

/// A serial number of days as ISO 8601: "2024-03-01", with a time of day "2024-03-01 14:30:00"; with the
/// format time and below one day "14:30:00". Days count from 1900-01-01 as 1, with the 1900-02-29 that never
/// was; or from 1904-01-01 as 0. Seconds are rounded. The number itself if no date between the years 1900 and
/// 9999 fits.
[[nodiscard]] std::string serial_text(std::string_view number, CellFormat format, bool from_1904);

}  // namespace pear::sources
