#include "pushdown/dialect/postgresql.hpp"

#include <fmt/format.h>

namespace pear::pushdown {
namespace {

std::string as_integer(const std::string& number) { return fmt::format("CAST({} AS bigint)", number); }

}  // namespace

std::string Postgresql::text_of(const std::string& raw) const {
  return fmt::format("NULLIF(CAST({} AS text), '')", raw);
}

std::string Postgresql::units_of(const std::string& raw) const {
  return as_integer(fmt::format("round(CAST(NULLIF(CAST({} AS text), '') AS numeric) * 10000)", raw));
}

std::string Postgresql::date_of(const std::string& raw) const {
  return fmt::format("CAST(NULLIF(left(CAST({} AS text), 10), '') AS date)", raw);
}

// CASE is sent to foreign servers, NULLIF is not.
std::string Postgresql::text_of_native(const std::string& raw) const {
  return fmt::format("CASE WHEN {0} <> '' THEN {0} END", raw);
}

// Floating-point numbers as they are written: 0.1 is one tenth.
std::string Postgresql::units_of_native(const std::string& raw) const {
  return as_integer(fmt::format("round(CAST({} AS numeric) * 10000)", raw));
}

std::string Postgresql::date_of_native(const std::string& raw) const {
  return fmt::format("CAST({} AS date)", raw);
}

std::string Postgresql::time_of(const std::string& raw) const {
  return fmt::format(
      "CASE WHEN length(CAST({0} AS text)) > 10 THEN CAST(floor(extract(epoch FROM CAST(substring(CAST({0} "
      "AS text) FROM 12 FOR "
      "8) AS time))) AS bigint) END",
      raw);
}

std::string Postgresql::date_literal(Date day) const { return fmt::format("DATE '{}'", to_text(day)); }

std::string Postgresql::integer_literal(std::int64_t value) const {
  return fmt::format("bigint '{}'", value);
}

std::string Postgresql::product(const std::string& a, const std::string& b) const {
  return as_integer(fmt::format("round(CAST({} AS numeric) * {} * 0.0001)", a, b));
}

// In whole numbers, as a quotient of numerics is rounded on its way.
std::string Postgresql::quotient(const std::string& a, const std::string& b) const {
  return as_integer(
      fmt::format("div(2 * abs(CAST({0} AS numeric)) * 10000 + abs({1}), 2 * abs({1})) * sign(CAST({0} AS "
                  "numeric)) * sign({1})",
                  a, b));
}

std::string Postgresql::part_of(expression::Op part, const std::string& date) const {
  const char* name = part == expression::Op::year_of      ? "year"
                     : part == expression::Op::quarter_of ? "quarter"
                     : part == expression::Op::month_of   ? "month"
                     : part == expression::Op::week_of    ? "week"
                                                          : "day";
  return as_integer(fmt::format("extract({} FROM {}) * 10000", name, date));
}

std::string Postgresql::label_of(DayLabel label, const std::string& date) const {
  if (label == DayLabel::weekday)
    return fmt::format(
        "(ARRAY['1 Mon', '2 Tue', '3 Wed', '4 Thu', '5 Fri', '6 Sat', '7 Sun'])[CAST(extract(isodow FROM {}) "
        "AS integer)]",
        date);
  const char* format = label == DayLabel::quarter ? R"(YYYY"-Q"Q)"
                       : label == DayLabel::month ? "YYYY-MM"
                                                  : R"(IYYY"-W"IW)";
  return fmt::format("to_char({}, '{}')", date, format);
}

std::string Postgresql::start_of(DayLabel label, const std::string& date) const {
  if (label == DayLabel::weekday) return date;
  const char* part = label == DayLabel::quarter ? "quarter" : label == DayLabel::month ? "month" : "week";
  return fmt::format("date_trunc('{}', CAST({} AS timestamp))", part, date);
}

std::string Postgresql::days_between(const std::string& a, const std::string& b) const {
  return as_integer(fmt::format("({} - {})", a, b));
}

std::string Postgresql::days_later(const std::string& date, std::int64_t days) const {
  return fmt::format("({} + ({}))", date, days);
}

std::string Postgresql::by_code_point(const std::string& text) const {
  return fmt::format("({} COLLATE \"C\")", text);
}

// By ICU's tables, as in expressions over a daybook.
std::string Postgresql::lower(const std::string& text) const {
  return fmt::format("lower({} COLLATE \"und-x-icu\")", text);
}
std::string Postgresql::upper(const std::string& text) const {
  return fmt::format("upper({} COLLATE \"und-x-icu\")", text);
}

std::string Postgresql::trimmed(const std::string& text) const {
  return fmt::format("btrim({}, ' ' || chr(9) || chr(10) || chr(13) || chr(160))", text);
}

std::string Postgresql::like(const std::string& text, const std::string& pattern) const {
  return fmt::format("({} COLLATE \"C\" LIKE {} ESCAPE '')", text, pattern);
}

std::string Postgresql::part_of_text(const std::string& text, const std::string& first,
                                     const std::string& count) const {
  return count.empty() ? fmt::format("substring({} FROM CAST({} AS integer))", text, first)
                       : fmt::format("substring({} FROM CAST({} AS integer) FOR CAST({} AS integer))", text,
                                     first, count);
}

std::string Postgresql::length(const std::string& text) const {
  return as_integer(fmt::format("char_length({})", text));
}

std::string Postgresql::text_of_units(const std::string& units) const {
  return fmt::format("CAST(trim_scale({} * 0.0001) AS text)", units);
}

std::string Postgresql::text_of_date(const std::string& date) const {
  return fmt::format("to_char({}, 'YYYY-MM-DD')", date);
}

std::string Postgresql::same(const std::string& a, const std::string& b) const {
  return fmt::format("{} IS NOT DISTINCT FROM {}", a, b);
}

}  // namespace pear::pushdown
