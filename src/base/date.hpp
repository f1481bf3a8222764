// Calendar dates and the time of day.
#pragma once

#include <compare>
#include <cstdint>
#include <string>
#include <string_view>

#include <tl/expected.hpp>

namespace pear {

/// A day: the number of days since 1970-01-01 (proleptic Gregorian calendar), of the years 0 to 9999.
struct Date {
  std::int32_t days = 0;
  constexpr auto operator<=>(const Date&) const = default;
};

[[nodiscard]] constexpr std::int32_t days_between(Date from, Date to) { return to.days - from.days; }

/// A month of a year. Months compare and count in order of time.
struct Month {
  std::int32_t index = 0;  ///< months since January of year 0
  constexpr auto operator<=>(const Month&) const = default;
};

/// A day and, where the data has it, the second of that day.
struct Moment {
  static constexpr std::int32_t kNoTime = -1;
  Date date;
  std::int32_t second_of_day = kNoTime;  ///< 0 to 86,399, or kNoTime
  constexpr auto operator<=>(const Moment&) const = default;
};

enum class DateFault { empty, not_a_date, no_such_day };

/// Year-month-day of a calendar; the day must exist (use parse_iso_moment for text from outside).
[[nodiscard]] Date date_of(int year, unsigned month, unsigned day);
[[nodiscard]] Month month_of(Date date);

[[nodiscard]] std::string to_text(Date date);    ///< "2024-09-30"
constexpr std::size_t kDateText = 10;            ///< its length
char* write_text(Date date, char* to);           ///< the same, written to `to`; returns its end
[[nodiscard]] std::string to_text(Month month);  ///< "2024-09"

/// "14:05", or "14:05:59" where there are seconds.
[[nodiscard]] std::string time_of_day_text(std::int32_t second_of_day);

/// Reads ISO 8601: "2024-09-30", optionally followed by "T" or one space and "14:05" or "14:05:59"; drops a
/// fraction of a second. Years 1000 to 9999. Rejects a time zone.
[[nodiscard]] tl::expected<Moment, DateFault> parse_iso_moment(std::string_view text);

/// The error as part of a sentence: "is not a date (YYYY-MM-DD)".
[[nodiscard]] std::string_view describe(DateFault fault);

}  // namespace pear
