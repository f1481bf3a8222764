// How a kind of database writes what ISO SQL leaves open.
#pragma once

#include <memory>
#include <string>
#include <string_view>

#include "base/date.hpp"
#include "database/address.hpp"
#include "expression/syntax/node.hpp"

namespace pear::pushdown {

/// The columns that a day is shown as.
enum class DayLabel : std::uint8_t { quarter, month, week, weekday };

/// A control character that ids and other values of a shop do not have.
constexpr char kBetweenValues = '\x1f';

/// Values have the same form in all statements: a number is an integer of units of Decimal, so that sums are
/// exact; a time of day is an integer of seconds; a date is the database's own; a text is never empty. All
/// functions take and return SQL.
class Dialect {
 public:
  virtual ~Dialect() = default;
  Dialect() = default;
  Dialect(const Dialect&) = delete;
  Dialect& operator=(const Dialect&) = delete;

  // Values of the shop's tables, of any type of the database. An empty text, or a text that is no date, is
  // NULL.
  [[nodiscard]] virtual std::string text_of(const std::string& raw) const = 0;
  [[nodiscard]] virtual std::string units_of(const std::string& raw) const = 0;
  [[nodiscard]] virtual std::string date_of(const std::string& raw) const = 0;
  // The same of values that the database has declared to be texts, numbers or dates.
  [[nodiscard]] virtual std::string text_of_native(const std::string& raw) const { return text_of(raw); }
  [[nodiscard]] virtual std::string units_of_native(const std::string& raw) const { return units_of(raw); }
  [[nodiscard]] virtual std::string date_of_native(const std::string& raw) const { return date_of(raw); }
  /// Whether a number is below zero in units: it may be too small for one.
  [[nodiscard]] virtual std::string below_zero_native(const std::string& raw) const {
    return units_of_native(raw) + " < 0";
  }
  /// NULL where the value is a date without a time.
  [[nodiscard]] virtual std::string time_of(const std::string& raw) const = 0;

  [[nodiscard]] virtual std::string date_literal(Date day) const = 0;
  [[nodiscard]] virtual std::string integer_literal(std::int64_t value) const = 0;

  /// Products and quotients in units, rounded half away from zero.
  [[nodiscard]] virtual std::string product(const std::string& a, const std::string& b) const = 0;
  [[nodiscard]] virtual std::string quotient(const std::string& a, const std::string& b) const = 0;

  /// a x b / c, rounded half away from zero, of integers; c is above 0.
  [[nodiscard]] virtual std::string proportion(const std::string& a, const std::string& b,
                                               const std::string& c) const = 0;
  /// The sign of a x b minus a share, in millionths, of c x d: exactly, of integers.
  [[nodiscard]] virtual std::string compared(const std::string& a, const std::string& b, std::int64_t share,
                                             const std::string& c, const std::string& d) const = 0;

  /// Year, quarter, month, week or day of a date, in units.
  [[nodiscard]] virtual std::string part_of(expression::Op part, const std::string& date) const = 0;
  /// See Month: a plain integer.
  [[nodiscard]] std::string month_index(const std::string& date) const;
  [[nodiscard]] virtual std::string label_of(DayLabel label, const std::string& date) const = 0;
  /// The first day of the quarter, month or week, which has the same label, if foreign servers compute it and
  /// not the label.
  [[nodiscard]] virtual std::string start_of(DayLabel /*label*/, const std::string& date) const {
    return date;
  }
  /// Days from b to a, a plain integer.
  [[nodiscard]] virtual std::string days_between(const std::string& a, const std::string& b) const = 0;
  [[nodiscard]] virtual std::string days_later(const std::string& date, std::int64_t days) const = 0;

  /// A text for a comparison of size, by code point.
  [[nodiscard]] virtual std::string by_code_point(const std::string& text) const = 0;
  [[nodiscard]] virtual std::string lower(const std::string& text) const = 0;
  [[nodiscard]] virtual std::string upper(const std::string& text) const = 0;
  [[nodiscard]] virtual std::string trimmed(const std::string& text) const = 0;
  [[nodiscard]] virtual std::string like(const std::string& text, const std::string& pattern) const = 0;
  /// first and count are plain integers; without a count to the end.
  [[nodiscard]] virtual std::string part_of_text(const std::string& text, const std::string& first,
                                                 const std::string& count) const = 0;
  /// Characters, a plain integer.
  [[nodiscard]] virtual std::string length(const std::string& text) const = 0;
  [[nodiscard]] virtual std::string text_of_units(const std::string& units) const = 0;
  [[nodiscard]] virtual std::string text_of_date(const std::string& date) const = 0;

  /// An aggregate: all values as one text, in any order, with kBetweenValues between them. Empty if there is
  /// none.
  [[nodiscard]] virtual std::string joined(const std::string& value) const = 0;

  /// Whether two values are equal, or both NULL.
  [[nodiscard]] virtual std::string same(const std::string& a, const std::string& b) const = 0;
  /// The type of texts, and of any value that is sent to the client.
  [[nodiscard]] virtual std::string_view text_type() const { return "TEXT"; }
  /// An integer that may be longer than 64 bits.
  [[nodiscard]] virtual std::string wide(const std::string& value) const {
    return "CAST(" + value + " AS numeric)";
  }
  /// What ends a statement of which only so many rows are wanted.
  [[nodiscard]] virtual std::string first_rows(int rows) const { return "LIMIT " + std::to_string(rows); }
  /// The words between the name of a WITH query and its statement, so that conditions reach the tables.
  [[nodiscard]] virtual std::string_view as_written() const = 0;
  /// What begins and ends a transaction that reads one state of the database and writes nothing.
  [[nodiscard]] virtual std::string_view begin_reading() const = 0;
};

[[nodiscard]] std::unique_ptr<Dialect> dialect_of(database::DatabaseKind kind);

/// 'text'
[[nodiscard]] std::string text_literal(std::string_view text);

}  // namespace pear::pushdown
