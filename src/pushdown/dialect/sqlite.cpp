#include "pushdown/dialect/sqlite.hpp"

#include <fmt/format.h>

namespace pear::pushdown {
namespace {

std::string integer_in(const std::string& text) { return fmt::format("CAST({} AS INTEGER)", text); }
std::string formatted(const char* format, const std::string& date) {
  return fmt::format("strftime('{}', {})", format, date);
}
std::string number(const char* format, const std::string& date) {
  return integer_in(formatted(format, date));
}
/// The Thursday of the date's ISO week, whose year is that of the week.
std::string thursday_of(const std::string& date) {
  return fmt::format("date({}, '-3 days', 'weekday 4')", date);
}
std::string week_of(const std::string& date) {
  return fmt::format("(({} - 1) / 7 + 1)", number("%j", thursday_of(date)));
}
std::string quarter_of(const std::string& date) { return fmt::format("(({} + 2) / 3)", number("%m", date)); }

}  // namespace

std::string Sqlite::text_of(const std::string& raw) const {
  return fmt::format("NULLIF(CAST({} AS TEXT), '')", raw);
}
std::string Sqlite::units_of(const std::string& raw) const {
  return fmt::format("pear_units(CAST({} AS TEXT))", raw);
}
std::string Sqlite::date_of(const std::string& raw) const { return fmt::format("date({})", raw); }

std::string Sqlite::time_of(const std::string& raw) const {
  return fmt::format("CASE WHEN length({0}) > 10 THEN CAST(strftime('%s', {0}) AS INTEGER) % 86400 END", raw);
}

std::string Sqlite::date_literal(Date day) const { return text_literal(to_text(day)); }
std::string Sqlite::integer_literal(std::int64_t value) const { return std::to_string(value); }

std::string Sqlite::product(const std::string& a, const std::string& b) const {
  return fmt::format("pear_product({}, {})", a, b);
}
std::string Sqlite::quotient(const std::string& a, const std::string& b) const {
  return fmt::format("pear_quotient({}, {})", a, b);
}

std::string Sqlite::part_of(expression::Op part, const std::string& date) const {
  const std::string value = part == expression::Op::year_of      ? number("%Y", date)
                            : part == expression::Op::quarter_of ? quarter_of(date)
                            : part == expression::Op::month_of   ? number("%m", date)
                            : part == expression::Op::week_of    ? week_of(date)
                                                                 : number("%d", date);
  return fmt::format("({} * 10000)", value);
}

std::string Sqlite::label_of(DayLabel label, const std::string& date) const {
  switch (label) {
    case DayLabel::quarter:
      return fmt::format("({} || '-Q' || {})", formatted("%Y", date), quarter_of(date));
    case DayLabel::month:
      return formatted("%Y-%m", date);
    case DayLabel::week:
      return fmt::format("({} || '-W' || printf('%02d', {}))", formatted("%Y", thursday_of(date)),
                         week_of(date));
    case DayLabel::weekday:
      break;
  }
  return fmt::format(
      "CASE {} WHEN '1' THEN '1 Mon' WHEN '2' THEN '2 Tue' WHEN '3' THEN '3 Wed' WHEN '4' THEN '4 Thu' WHEN "
      "'5' THEN '5 Fri' "
      "WHEN '6' THEN '6 Sat' WHEN '0' THEN '7 Sun' END",
      formatted("%w", date));
}

std::string Sqlite::days_between(const std::string& a, const std::string& b) const {
  return integer_in(fmt::format("julianday({}) - julianday({})", a, b));
}

std::string Sqlite::days_later(const std::string& date, std::int64_t days) const {
  return fmt::format("date({}, '{:+} days')", date, days);
}

std::string Sqlite::by_code_point(const std::string& text) const { return text; }
std::string Sqlite::lower(const std::string& text) const { return fmt::format("pear_lower({})", text); }
std::string Sqlite::upper(const std::string& text) const { return fmt::format("pear_upper({})", text); }
std::string Sqlite::trimmed(const std::string& text) const { return fmt::format("pear_trimmed({})", text); }

std::string Sqlite::like(const std::string& text, const std::string& pattern) const {
  return fmt::format("pear_like({}, {})", text, pattern);
}

std::string Sqlite::part_of_text(const std::string& text, const std::string& first,
                                 const std::string& count) const {
  // SQLite counts a position below 1 from the end, where ISO SQL has characters before the first one.
  const std::string from = fmt::format("max({}, 1)", first);
  if (count.empty()) return fmt::format("substr({}, {})", text, from);
  return fmt::format("substr({}, {}, max({} + {} - {}, 0))", text, from, first, count, from);
}

std::string Sqlite::length(const std::string& text) const { return fmt::format("length({})", text); }
std::string Sqlite::text_of_units(const std::string& units) const {
  return fmt::format("pear_text({})", units);
}
std::string Sqlite::text_of_date(const std::string& date) const { return date; }
std::string Sqlite::same(const std::string& a, const std::string& b) const {
  return fmt::format("{} IS {}", a, b);
}

}  // namespace pear::pushdown
