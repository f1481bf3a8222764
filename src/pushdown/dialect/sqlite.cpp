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

class Sqlite final : public Dialect {
 public:
  std::string text_of(const std::string& raw) const override {
    return fmt::format("NULLIF(CAST({} AS TEXT), '')", raw);
  }
  std::string units_of(const std::string& raw) const override {
    return fmt::format("pear_units(CAST({} AS TEXT))", raw);
  }
  std::string date_of(const std::string& raw) const override { return fmt::format("date({})", raw); }

  std::string time_of(const std::string& raw) const override {
    return fmt::format("CASE WHEN length({0}) > 10 THEN CAST(strftime('%s', {0}) AS INTEGER) % 86400 END",
                       raw);
  }

  std::string date_literal(Date day) const override { return text_literal(to_text(day)); }
  std::string integer_literal(std::int64_t value) const override { return std::to_string(value); }

  std::string product(const std::string& a, const std::string& b) const override {
    return fmt::format("pear_product({}, {})", a, b);
  }
  std::string quotient(const std::string& a, const std::string& b) const override {
    return fmt::format("pear_quotient({}, {})", a, b);
  }

  std::string proportion(const std::string& a, const std::string& b, const std::string& c) const override {
    return fmt::format("pear_proportion({}, {}, {})", a, b, c);
  }
  std::string compared(const std::string& a, const std::string& b, std::int64_t share, const std::string& c,
                       const std::string& d) const override {
    return fmt::format("pear_compared({}, {}, {}, {}, {})", a, b, share, c, d);
  }

  std::string part_of(expression::Op part, const std::string& date) const override {
    const std::string value = part == expression::Op::year_of      ? number("%Y", date)
                              : part == expression::Op::quarter_of ? quarter_of(date)
                              : part == expression::Op::month_of   ? number("%m", date)
                              : part == expression::Op::week_of    ? week_of(date)
                                                                   : number("%d", date);
    return fmt::format("({} * 10000)", value);
  }

  std::string label_of(DayLabel label, const std::string& date) const override {
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
        "CASE {} WHEN '1' THEN '1 Mon' WHEN '2' THEN '2 Tue' WHEN '3' THEN '3 Wed' WHEN '4' THEN '4 Thu' "
        "WHEN "
        "'5' THEN '5 Fri' "
        "WHEN '6' THEN '6 Sat' WHEN '0' THEN '7 Sun' END",
        formatted("%w", date));
  }

  std::string days_between(const std::string& a, const std::string& b) const override {
    return integer_in(fmt::format("julianday({}) - julianday({})", a, b));
  }

  std::string days_later(const std::string& date, std::int64_t days) const override {
    return fmt::format("date({}, '{:+} days')", date, days);
  }

  std::string by_code_point(const std::string& text) const override { return text; }
  std::string lower(const std::string& text) const override { return fmt::format("pear_lower({})", text); }
  std::string upper(const std::string& text) const override { return fmt::format("pear_upper({})", text); }
  std::string trimmed(const std::string& text) const override {
    return fmt::format("pear_trimmed({})", text);
  }

  std::string like(const std::string& text, const std::string& pattern) const override {
    return fmt::format("pear_like({}, {})", text, pattern);
  }

  std::string part_of_text(const std::string& text, const std::string& first,
                           const std::string& count) const override {
    // SQLite counts a position below 1 from the end, where ISO SQL has characters before the first one.
    const std::string from = fmt::format("max({}, 1)", first);
    if (count.empty()) return fmt::format("substr({}, {})", text, from);
    return fmt::format("substr({}, {}, max({} + {} - {}, 0))", text, from, first, count, from);
  }

  std::string length(const std::string& text) const override { return fmt::format("length({})", text); }
  std::string text_of_units(const std::string& units) const override {
    return fmt::format("pear_text({})", units);
  }
  std::string text_of_date(const std::string& date) const override { return date; }
  std::string joined(const std::string& value) const override {
    return fmt::format("group_concat(CAST({} AS TEXT), char({}))", value, int{kBetweenValues});
  }

  std::string same(const std::string& a, const std::string& b) const override {
    return fmt::format("{} IS {}", a, b);
  }

  std::string_view as_written() const override { return "NOT MATERIALIZED "; }
  std::string_view begin_reading() const override { return "BEGIN"; }
};

}  // namespace

std::unique_ptr<Dialect> sqlite_dialect() { return std::make_unique<Sqlite>(); }

}  // namespace pear::pushdown
