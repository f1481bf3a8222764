#include "pushdown/dialect/postgresql.hpp"

#include <fmt/format.h>

namespace pear::pushdown {
namespace {

std::string as_integer(const std::string& number) { return fmt::format("CAST({} AS bigint)", number); }

class Postgresql final : public Dialect {
 public:
  std::string text_of(const std::string& raw) const override {
    return fmt::format("NULLIF(CAST({} AS text), '')", raw);
  }

  std::string units_of(const std::string& raw) const override {
    return as_integer(fmt::format("round(CAST(NULLIF(CAST({} AS text), '') AS numeric) * 10000)", raw));
  }

  std::string date_of(const std::string& raw) const override {
    return fmt::format("CAST(NULLIF(left(CAST({} AS text), 10), '') AS date)", raw);
  }

  // CASE is sent to foreign servers, NULLIF is not.
  std::string text_of_native(const std::string& raw) const override {
    return fmt::format("CASE WHEN {0} <> '' THEN {0} END", raw);
  }

  // Floating-point numbers as they are written: 0.1 is one tenth.
  std::string units_of_native(const std::string& raw) const override {
    return as_integer(fmt::format("round(CAST({} AS numeric) * 10000)", raw));
  }

  // Half a unit is rounded away from zero.
  std::string below_zero_native(const std::string& raw) const override {
    return fmt::format("({} <= -0.00005)", raw);
  }

  std::string date_of_native(const std::string& raw) const override {
    return fmt::format("CAST({} AS date)", raw);
  }

  std::string time_of(const std::string& raw) const override {
    return fmt::format(
        "CASE WHEN length(CAST({0} AS text)) > 10 THEN CAST(floor(extract(epoch FROM CAST(substring(CAST({0} "
        "AS text) FROM 12 FOR "
        "8) AS time))) AS bigint) END",
        raw);
  }

  std::string date_literal(Date day) const override { return fmt::format("DATE '{}'", to_text(day)); }

  std::string integer_literal(std::int64_t value) const override { return fmt::format("bigint '{}'", value); }

  std::string product(const std::string& a, const std::string& b) const override {
    return as_integer(fmt::format("round(CAST({} AS numeric) * {} * 0.0001)", a, b));
  }

  // In whole numbers, as a quotient of numerics is rounded on its way.
  std::string quotient(const std::string& a, const std::string& b) const override {
    return as_integer(
        fmt::format("div(2 * abs(CAST({0} AS numeric)) * 10000 + abs({1}), 2 * abs({1})) * sign(CAST({0} AS "
                    "numeric)) * sign({1})",
                    a, b));
  }

  std::string proportion(const std::string& a, const std::string& b, const std::string& c) const override {
    return fmt::format(
        "div(2 * abs(CAST({0} AS numeric) * {1}) + {2}, 2 * {2}) * sign(CAST({0} AS numeric) * {1})", a, b,
        c);
  }
  std::string compared(const std::string& a, const std::string& b, std::int64_t share, const std::string& c,
                       const std::string& d) const override {
    return fmt::format("sign(CAST({} AS numeric) * {} * 1000000 - CAST({} AS numeric) * {} * {})", a, b, c, d,
                       share);
  }

  std::string part_of(expression::Op part, const std::string& date) const override {
    const char* name = part == expression::Op::year_of      ? "year"
                       : part == expression::Op::quarter_of ? "quarter"
                       : part == expression::Op::month_of   ? "month"
                       : part == expression::Op::week_of    ? "week"
                                                            : "day";
    return as_integer(fmt::format("extract({} FROM {}) * 10000", name, date));
  }

  std::string label_of(DayLabel label, const std::string& date) const override {
    if (label == DayLabel::weekday)
      return fmt::format(
          "(ARRAY['1 Mon', '2 Tue', '3 Wed', '4 Thu', '5 Fri', '6 Sat', '7 Sun'])[CAST(extract(isodow FROM "
          "{}) "
          "AS integer)]",
          date);
    const char* format = label == DayLabel::quarter ? R"(YYYY"-Q"Q)"
                         : label == DayLabel::month ? "YYYY-MM"
                                                    : R"(IYYY"-W"IW)";
    return fmt::format("to_char({}, '{}')", date, format);
  }

  std::string start_of(DayLabel label, const std::string& date) const override {
    if (label == DayLabel::weekday) return date;
    const char* part = label == DayLabel::quarter ? "quarter" : label == DayLabel::month ? "month" : "week";
    return fmt::format("date_trunc('{}', CAST({} AS timestamp))", part, date);
  }

  std::string days_between(const std::string& a, const std::string& b) const override {
    return as_integer(fmt::format("({} - {})", a, b));
  }

  std::string days_later(const std::string& date, std::int64_t days) const override {
    return fmt::format("({} + ({}))", date, days);
  }

  std::string by_code_point(const std::string& text) const override {
    return fmt::format("({} COLLATE \"C\")", text);
  }

  // By ICU's tables, as in expressions over a daybook.
  std::string lower(const std::string& text) const override {
    return fmt::format("lower({} COLLATE \"und-x-icu\")", text);
  }
  std::string upper(const std::string& text) const override {
    return fmt::format("upper({} COLLATE \"und-x-icu\")", text);
  }

  std::string trimmed(const std::string& text) const override {
    return fmt::format("btrim({}, ' ' || chr(9) || chr(10) || chr(13) || chr(160))", text);
  }

  std::string like(const std::string& text, const std::string& pattern) const override {
    return fmt::format("({} COLLATE \"C\" LIKE {} ESCAPE '')", text, pattern);
  }

  std::string part_of_text(const std::string& text, const std::string& first,
                           const std::string& count) const override {
    return count.empty() ? fmt::format("substring({} FROM CAST({} AS integer))", text, first)
                         : fmt::format("substring({} FROM CAST({} AS integer) FOR CAST({} AS integer))", text,
                                       first, count);
  }

  std::string length(const std::string& text) const override {
    return as_integer(fmt::format("char_length({})", text));
  }

  std::string text_of_units(const std::string& units) const override {
    return fmt::format("CAST(trim_scale({} * 0.0001) AS text)", units);
  }

  std::string text_of_date(const std::string& date) const override {
    return fmt::format("to_char({}, 'YYYY-MM-DD')", date);
  }

  std::string joined(const std::string& value) const override {
    return fmt::format("string_agg(CAST({0} AS text), chr({1}) ORDER BY {0})", value, int{kBetweenValues});
  }

  std::string same(const std::string& a, const std::string& b) const override {
    return fmt::format("{} IS NOT DISTINCT FROM {}", a, b);
  }

  std::string_view as_written() const override { return "NOT MATERIALIZED "; }
  std::string_view begin_reading() const override {
    return "BEGIN TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY";
  }
};

}  // namespace

std::unique_ptr<Dialect> postgresql_dialect() { return std::make_unique<Postgresql>(); }

}  // namespace pear::pushdown
