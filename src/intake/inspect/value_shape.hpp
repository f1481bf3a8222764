// What a single text can be: a number or a date, and in which format.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "intake/inspect/dressed_number.hpp"

namespace pear::intake {

enum class Shape : std::uint8_t { empty, number, date, text };

/// The format of a number, as far as this one shows it.
struct NumberShape {
  bool has_point = false, has_comma = false;
  bool point_is_decimal = false;  ///< certainly: not followed by exactly three digits, or after a comma
  bool comma_is_decimal = false;
  bool leading_zero = false;  ///< "007", which is probably an article number
  bool negative = false;
  double value = 0;  ///< approximately, to find the smallest and largest
};

/// The format of a date. "01/02/2024" has the form "??/??/yyyy": other values must show which number is the
/// day.
struct DateShape {
  std::string form;             ///< with the separators and the time of day: "yyyy-mm-dd", "??.??.yyyy hh:mm"
  bool first_is_day = false;    ///< the first number is beyond 12
  bool second_is_day = false;   ///< the second is
  std::string language = "en";  ///< of the month's name
  int day_first = 0, month_first = 0;  ///< as yyyymmdd with either order, to find the first and last
};

struct ValueShape {
  Shape shape = Shape::text;  ///< number for one with something around it, too
  NumberShape number;
  bool is_dressed = false;
  Dressing dressing;
  DateShape date;
};

[[nodiscard]] ValueShape shape_of(std::string_view text);

/// The date formats that fit a text, as an intake file writes them: "%d.%m.%Y", or both orders of day and
/// month if it fits both; empty if it is not a date in a form known here.
[[nodiscard]] std::vector<std::string> fitting_formats(std::string_view text);

/// Whether digits are a date written as 20240131, of the years 1900 to 2099.
[[nodiscard]] bool is_compact_date(std::string_view text);

/// The strftime format of a form, with the day first or the month.
[[nodiscard]] std::string format_of(std::string_view form, bool day_first);

}  // namespace pear::intake
