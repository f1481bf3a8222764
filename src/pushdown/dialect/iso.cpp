#include "pushdown/dialect/iso.hpp"

#include <fmt/format.h>

namespace pear::pushdown {
namespace {
namespace iso {  // the other dialects have functions of the same names

using expression::Op;

std::string as_text(const std::string& value) { return fmt::format("CAST({} AS VARCHAR(4000))", value); }
std::string as_integer(const std::string& value) { return fmt::format("CAST({} AS BIGINT)", value); }
std::string as_wide(const std::string& value) { return fmt::format("CAST({} AS DECIMAL(38, 0))", value); }
std::string sign_of(const std::string& value) {
  return fmt::format("CASE WHEN {} < 0 THEN -1 ELSE 1 END", value);
}

/// A number times a scale, rounded half away from zero.
std::string scaled(const std::string& number, const char* scale) {
  return as_integer(fmt::format("FLOOR(ABS({0}) * {1} + 0.5) * {2}", number, scale, sign_of(number)));
}

/// a / b in whole numbers, rounded half away from zero: exact, where a quotient would be rounded on its way.
std::string rounded_quotient(const std::string& a, const std::string& b) {
  const std::string doubled = fmt::format("(2 * ABS({}) + ABS({}))", a, b),
                    twice = fmt::format("(2 * ABS({}))", b);
  return fmt::format("({0} - MOD({0}, {1})) / {1} * ({2}) * ({3})", doubled, twice, sign_of(a), sign_of(b));
}

std::string part(const char* field, const std::string& date) {
  return as_integer(fmt::format("EXTRACT({} FROM {})", field, date));
}
std::string two_digits(const std::string& number) {
  return fmt::format("CASE WHEN {0} < 10 THEN '0' ELSE '' END || CAST({0} AS VARCHAR(20))", number);
}
std::string later(const std::string& date, std::int64_t days) {
  return fmt::format("CAST({} + INTERVAL '{}' DAY AS DATE)", date, days);
}

/// The number of a day, from years, months since March and days: the standard has no whole number for the
/// days between two dates that all systems write alike.
std::string number_of(const std::string& year, const std::string& months, const std::string& day) {
  return fmt::format("(365 * {0} + {0} / 4 - {0} / 100 + {0} / 400 + (153 * {1} + 2) / 5 + {2})", year,
                     months, day);
}
std::string day_number(const std::string& date) {
  const std::string year = part("YEAR", date), month = part("MONTH", date);
  return number_of(fmt::format("({} - CASE WHEN {} <= 2 THEN 1 ELSE 0 END)", year, month),
                   fmt::format("({0} + CASE WHEN {0} <= 2 THEN 9 ELSE -3 END)", month), part("DAY", date));
}
/// 0 for Monday.
std::string weekday_of(const std::string& date) {
  constexpr int kOfDayZero = 1;  // a Tuesday, the last day of February of year 0
  return fmt::format("MOD({} + {}, 7)", day_number(date), kOfDayZero);
}
/// The Thursday of the date's ISO week, whose year is that of the week.
std::string thursday_of(const std::string& date) {
  std::string thursday = fmt::format("CASE {}", weekday_of(date));
  for (int weekday = 0; weekday < 7; ++weekday)
    thursday += fmt::format(" WHEN {} THEN {}", weekday, later(date, 3 - weekday));
  return thursday + " END";
}
std::string week_of(const std::string& date) {
  const std::string thursday = thursday_of(date), year = part("YEAR", thursday);
  const std::string first = number_of(fmt::format("({} - 1)", year), "10", "1");
  return fmt::format("(({} - {}) / 7 + 1)", day_number(thursday), first);
}
std::string quarter_of(const std::string& date) { return fmt::format("(({} + 2) / 3)", part("MONTH", date)); }
std::string year_text(const std::string& date) {
  return fmt::format("CAST({} AS VARCHAR(20))", part("YEAR", date));
}

class Iso final : public Dialect {
 public:
  std::string text_of(const std::string& raw) const override {
    return fmt::format("NULLIF({}, '')", as_text(raw));
  }
  std::string units_of(const std::string& raw) const override {
    return scaled(fmt::format("CAST({} AS DECIMAL(28, 8))", text_of(raw)), "10000");
  }
  std::string units_of_native(const std::string& raw) const override {
    return scaled(fmt::format("CAST({} AS DECIMAL(28, 8))", raw), "10000");
  }
  std::string date_of(const std::string& raw) const override {
    return fmt::format("CAST(NULLIF(SUBSTRING({} FROM 1 FOR 10), '') AS DATE)", as_text(raw));
  }
  std::string date_of_native(const std::string& raw) const override {
    return fmt::format("CAST({} AS DATE)", raw);
  }
  std::string time_of(const std::string& raw) const override {
    const std::string time = fmt::format("CAST(SUBSTRING({} FROM 12 FOR 8) AS TIME)", as_text(raw));
    return fmt::format("CASE WHEN CHAR_LENGTH({}) > 10 THEN {} * 3600 + {} * 60 + {} END", as_text(raw),
                       part("HOUR", time), part("MINUTE", time), part("SECOND", time));
  }

  std::string date_literal(Date day) const override { return fmt::format("DATE '{}'", to_text(day)); }
  std::string integer_literal(std::int64_t value) const override { return as_integer(std::to_string(value)); }

  std::string product(const std::string& a, const std::string& b) const override {
    return scaled(fmt::format("({} * {})", as_wide(a), b), "0.0001");
  }
  std::string quotient(const std::string& a, const std::string& b) const override {
    return as_integer(rounded_quotient(fmt::format("({} * 10000)", as_wide(a)), b));
  }
  std::string proportion(const std::string& a, const std::string& b, const std::string& c) const override {
    return as_wide(rounded_quotient(fmt::format("({} * {})", as_wide(a), b), c));
  }
  std::string compared(const std::string& a, const std::string& b, std::int64_t share, const std::string& c,
                       const std::string& d) const override {
    const std::string left = fmt::format("{} * {} * 1000000", as_wide(a), b),
                      right = fmt::format("{} * {} * {}", as_wide(c), d, share);
    return fmt::format("CASE WHEN {0} < {1} THEN -1 WHEN {0} > {1} THEN 1 ELSE 0 END", left, right);
  }

  std::string part_of(Op which, const std::string& date) const override {
    const std::string value = which == Op::year_of      ? part("YEAR", date)
                              : which == Op::quarter_of ? quarter_of(date)
                              : which == Op::month_of   ? part("MONTH", date)
                              : which == Op::week_of    ? week_of(date)
                                                        : part("DAY", date);
    return fmt::format("({} * 10000)", value);
  }

  std::string label_of(DayLabel label, const std::string& date) const override {
    switch (label) {
      case DayLabel::quarter:
        return fmt::format("({} || '-Q' || CAST({} AS VARCHAR(20)))", year_text(date), quarter_of(date));
      case DayLabel::month:
        return fmt::format("({} || '-' || {})", year_text(date), two_digits(part("MONTH", date)));
      case DayLabel::week:
        return fmt::format("({} || '-W' || {})", year_text(thursday_of(date)), two_digits(week_of(date)));
      case DayLabel::weekday:
        break;
    }
    return fmt::format(
        "CASE {} WHEN 0 THEN '1 Mon' WHEN 1 THEN '2 Tue' WHEN 2 THEN '3 Wed' WHEN 3 THEN '4 Thu' WHEN 4 THEN "
        "'5 Fri' "
        "WHEN 5 THEN '6 Sat' WHEN 6 THEN '7 Sun' END",
        weekday_of(date));
  }

  std::string days_between(const std::string& a, const std::string& b) const override {
    return fmt::format("({} - {})", day_number(a), day_number(b));
  }
  std::string days_later(const std::string& date, std::int64_t days) const override {
    return later(date, days);
  }

  std::string by_code_point(const std::string& text) const override { return text; }
  std::string lower(const std::string& text) const override { return fmt::format("LOWER({})", text); }
  std::string upper(const std::string& text) const override { return fmt::format("UPPER({})", text); }
  std::string trimmed(const std::string& text) const override {
    return fmt::format("TRIM(BOTH ' ' FROM {})", text);
  }
  std::string like(const std::string& text, const std::string& pattern) const override {
    return fmt::format("({} LIKE {})", text, pattern);
  }
  std::string part_of_text(const std::string& text, const std::string& first,
                           const std::string& count) const override {
    const std::string from = fmt::format("CAST({} AS INTEGER)", first);
    return count.empty() ? fmt::format("SUBSTRING({} FROM {})", text, from)
                         : fmt::format("SUBSTRING({} FROM {} FOR CAST({} AS INTEGER))", text, from, count);
  }
  std::string length(const std::string& text) const override {
    return as_integer(fmt::format("CHAR_LENGTH({})", text));
  }
  std::string text_of_units(const std::string& units) const override {
    return fmt::format(
        "TRIM(TRAILING '.' FROM TRIM(TRAILING '0' FROM CAST(CAST({} * 0.0001 AS DECIMAL(28, 4)) AS "
        "VARCHAR(40))))",
        units);
  }
  std::string text_of_date(const std::string& date) const override {
    return fmt::format("({} || '-' || {} || '-' || {})", year_text(date), two_digits(part("MONTH", date)),
                       two_digits(part("DAY", date)));
  }

  /// The standard's LISTAGG is not everywhere, and cuts what is longer than a text may be.
  std::string joined(const std::string& /*value*/) const override { return ""; }
  std::string same(const std::string& a, const std::string& b) const override {
    return fmt::format("({0} = {1} OR ({0} IS NULL AND {1} IS NULL))", a, b);
  }
  std::string_view text_type() const override { return "VARCHAR(4000)"; }
  std::string wide(const std::string& value) const override { return as_wide(value); }
  std::string first_rows(int rows) const override { return fmt::format("FETCH FIRST {} ROWS ONLY", rows); }
  std::string_view as_written() const override { return ""; }
  std::string_view begin_reading() const override { return ""; }
};

}  // namespace iso
}  // namespace

std::unique_ptr<Dialect> iso_dialect() { return std::make_unique<iso::Iso>(); }

}  // namespace pear::pushdown
