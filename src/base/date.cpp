#include "base/date.hpp"

#include <date/date.h>
#include <fmt/format.h>

namespace pear {
namespace {

::date::year_month_day calendar(Date date) {
  return ::date::year_month_day{::date::sys_days{::date::days{date.days}}};
}

/// Reads exactly `count` digits from the front of `text` and drops them; returns -1 if they are not digits.
int take_digits(std::string_view& text, std::size_t count) {
  if (text.size() < count) return -1;
  int value = 0;
  for (const char c : text.substr(0, count)) {
    if (c < '0' || c > '9') return -1;
    value = value * 10 + (c - '0');
  }
  text.remove_prefix(count);
  return value;
}

bool take(std::string_view& text, char expected) {
  if (text.empty() || text.front() != expected) return false;
  text.remove_prefix(1);
  return true;
}

/// Reads "14:05", "14:05:59" or "14:05:59.123", to the end of the text; returns Moment::kNoTime for anything
/// else.
std::int32_t parse_time(std::string_view text) {
  const int hour = take_digits(text, 2);
  if (hour < 0 || hour > 23 || !take(text, ':')) return Moment::kNoTime;
  const int minute = take_digits(text, 2);
  if (minute < 0 || minute > 59) return Moment::kNoTime;
  int second = 0;
  if (take(text, ':')) {
    second = take_digits(text, 2);
    if (second < 0 || second > 59) return Moment::kNoTime;
    if (take(text, '.')) {
      if (text.empty()) return Moment::kNoTime;
      while (!text.empty() && take_digits(text, 1) >= 0) {
      }
    }
  }
  return text.empty() ? hour * 3600 + minute * 60 + second : Moment::kNoTime;
}

}  // namespace

Date date_of(int year, unsigned month, unsigned day) {
  const ::date::sys_days days = ::date::year{year} / ::date::month{month} / ::date::day{day};
  return {static_cast<std::int32_t>(days.time_since_epoch().count())};
}

Month month_of(Date date) {
  const auto ymd = calendar(date);
  return {static_cast<int>(ymd.year()) * 12 + static_cast<int>(static_cast<unsigned>(ymd.month())) - 1};
}

std::string to_text(Date date) {
  std::string text(kDateText, '0');
  write_text(date, text.data());
  return text;
}

char* write_text(Date date, char* to) {
  const auto ymd = calendar(date);
  const auto put = [&](std::size_t begin, std::size_t end, unsigned value) {
    for (; end > begin; value /= 10) to[--end] = static_cast<char>('0' + value % 10);
  };
  put(0, 4, static_cast<unsigned>(static_cast<int>(ymd.year())));
  put(5, 7, static_cast<unsigned>(ymd.month()));
  put(8, kDateText, static_cast<unsigned>(ymd.day()));
  to[4] = to[7] = '-';
  return to + kDateText;
}

std::string to_text(Month month) {
  return fmt::format("{:04}-{:02}", month.index / 12, month.index % 12 + 1);
}

std::string time_of_day_text(std::int32_t second_of_day) {
  const std::string text = fmt::format("{:02}:{:02}", second_of_day / 3600, second_of_day / 60 % 60);
  return second_of_day % 60 == 0 ? text : fmt::format("{}:{:02}", text, second_of_day % 60);
}

tl::expected<Moment, DateFault> parse_iso_moment(std::string_view text) {
  if (text.empty()) return tl::unexpected(DateFault::empty);
  const int year = take_digits(text, 4);
  if (year < 1000 || !take(text, '-')) return tl::unexpected(DateFault::not_a_date);
  const int month = take_digits(text, 2);
  if (month < 0 || !take(text, '-')) return tl::unexpected(DateFault::not_a_date);
  const int day = take_digits(text, 2);
  if (day < 0) return tl::unexpected(DateFault::not_a_date);
  const auto ymd = ::date::year{year} / month / day;
  if (!ymd.ok()) return tl::unexpected(DateFault::no_such_day);
  Moment moment;
  moment.date.days = static_cast<std::int32_t>(::date::sys_days{ymd}.time_since_epoch().count());
  if (text.empty()) return moment;
  if (!take(text, 'T') && !take(text, ' ')) return tl::unexpected(DateFault::not_a_date);
  moment.second_of_day = parse_time(text);
  if (moment.second_of_day == Moment::kNoTime) return tl::unexpected(DateFault::not_a_date);
  return moment;
}

std::string_view describe(DateFault fault) {
  switch (fault) {
    case DateFault::empty:
      return "is empty";
    case DateFault::not_a_date:
      return "is not a date (YYYY-MM-DD)";
    case DateFault::no_such_day:
      return "is a day that does not exist";
  }
  return "is not a date (YYYY-MM-DD)";
}

}  // namespace pear
