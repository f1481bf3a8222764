#include "analysis/options/day_span.hpp"

#include <array>
#include <charconv>
#include <span>
#include <sstream>
#include <vector>

#include <fmt/format.h>

#include "base/text.hpp"
#include "base/whole_months.hpp"

namespace pear::analysis {
namespace {

enum class Unit { day, week, month, quarter, year };

constexpr std::array<std::string_view, 5> kUnits = {"day", "week", "month", "quarter", "year"};

/// "month" or "months".
std::optional<Unit> unit_of(std::string_view word) {
  if (word.ends_with('s')) word.remove_suffix(1);
  for (std::size_t i = 0; i < kUnits.size(); ++i)
    if (word == kUnits[i]) return static_cast<Unit>(i);
  return std::nullopt;
}

std::int32_t months_of(Unit unit) { return unit == Unit::month ? 1 : unit == Unit::quarter ? 3 : 12; }

/// `count` units before the day.
Date earlier(Date day, std::int32_t count, Unit unit) {
  if (unit == Unit::day) return {day.days - count};
  if (unit == Unit::week) return {day.days - 7 * count};
  return months_before(day, count * months_of(unit));
}

/// From the month of this index on: calendar months.
DaySpan months_from(std::int32_t index, std::int32_t months) {
  const auto first_of = [](std::int32_t month) {
    return date_of(month / 12, static_cast<unsigned>(month % 12 + 1), 1);
  };
  return {first_of(index), Date{first_of(index + months).days - 1}};
}

/// The day, week, month, quarter or year that contains the day, or the one before it. Weeks begin on Monday.
DaySpan calendar_span(Date day, Unit unit, bool before) {
  if (unit == Unit::day) return {Date{day.days - (before ? 1 : 0)}, Date{day.days - (before ? 1 : 0)}};
  if (unit == Unit::week) {
    const std::int32_t since_monday = ((day.days + 3) % 7 + 7) % 7;  // 1970-01-01 was a Thursday
    const Date monday{day.days - since_monday - (before ? 7 : 0)};
    return {monday, Date{monday.days + 6}};
  }
  const std::int32_t months = months_of(unit), index = month_of(day).index;
  return months_from(index - index % months - (before ? months : 0), months);
}

std::optional<std::int32_t> number_of(std::string_view text) {
  constexpr std::int32_t kMost = 10'000;
  std::int32_t number = 0;
  const auto [end, fault] = std::from_chars(text.data(), text.data() + text.size(), number);
  if (fault != std::errc() || end != text.data() + text.size() || number < 1 || number > kMost)
    return std::nullopt;
  return number;
}

/// "2024-04-01", "2024-04", "2024-Q2", "2024".
std::optional<DaySpan> written_span(std::string_view text) {
  if (const auto moment = parse_iso_moment(text); moment && moment->second_of_day == Moment::kNoTime)
    return DaySpan{moment->date, moment->date};
  if (const auto month = parse_iso_moment(std::string(text) + "-01"); month && text.size() == 7)
    return months_from(month_of(month->date).index, 1);
  const auto year = parse_iso_moment(std::string(text.substr(0, 4)) + "-01-01");
  if (!year) return std::nullopt;
  const std::int32_t january = month_of(year->date).index;
  if (text.size() == 4) return months_from(january, 12);
  const auto week = text.size() == 8 && text.substr(4, 2) == "-W" ? number_of(text.substr(6)) : std::nullopt;
  if (week) {  // ISO 8601: the week that contains January 4 is the first
    const DaySpan first = calendar_span(Date{year->date.days + 3}, Unit::week, false);
    const std::int32_t days = 7 * (*week - 1);
    return *week > 53 ? std::nullopt
                      : std::optional(DaySpan{Date{first.first.days + days}, Date{first.last.days + days}});
  }
  const bool is_quarter = text.size() == 7 && text.substr(4, 2) == "-Q" && text[6] >= '1' && text[6] <= '4';
  if (!is_quarter) return std::nullopt;
  return months_from(january + 3 * (text[6] - '1'), 3);
}

/// "last 12 months", "this quarter", "end of last year", "30 days ago".
std::optional<DaySpan> relative_span(std::span<const std::string> words, Date data_end) {
  const auto with = [](Date first, Date last) { return DaySpan{first, last, true}; };
  const bool is_edge = words.size() == 4 && words[1] == "of" && (words[0] == "start" || words[0] == "end");
  if (is_edge) {
    const auto whole = relative_span(words.subspan(2), data_end);
    if (!whole) return std::nullopt;
    const Date edge = words[0] == "start" ? whole->first : whole->last;
    return with(edge, edge);
  }
  if (words.size() == 2 && (words[0] == "this" || words[0] == "last")) {
    const auto unit = unit_of(words[1]);
    if (!unit || words[1].ends_with('s')) return std::nullopt;
    const DaySpan span = calendar_span(data_end, *unit, words[0] == "last");
    return with(span.first, span.last);
  }
  if (words.size() != 3) return std::nullopt;
  const bool rolling = words[0] == "last", ago = words[2] == "ago";
  const auto number = number_of(words[rolling ? 1 : 0]);
  const auto unit = unit_of(words[rolling ? 2 : 1]);
  if (rolling == ago || !number || !unit) return std::nullopt;
  const Date day = earlier(data_end, *number, *unit);
  return ago ? with(day, day) : with(Date{day.days + 1}, data_end);
}

}  // namespace

OrError<DaySpan> parse_day_span(std::string_view option, std::string_view text, Date data_end) {
  if (const auto span = written_span(text)) return *span;
  std::istringstream stream{std::string(text)};
  std::vector<std::string> words;
  for (std::string word; stream >> word;) words.push_back(word);
  if (const auto span = relative_span(words, data_end)) return *span;
  return usage_error(fmt::format(
      "--{} takes a day such as 2024-04-01, a month or year such as 2024-04 or 2024, or a time "
      "before the end of the data such as \"last 12 months\", \"end of last quarter\" or \"30 days "
      "ago\", not {}.",
      option, in_quotes(text)));
}

}  // namespace pear::analysis
