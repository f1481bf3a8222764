// PostgreSQL, and systems that speak its protocol and SQL.
#pragma once

#include "pushdown/dialect/dialect.hpp"

namespace pear::pushdown {

class Postgresql final : public Dialect {
 public:
  [[nodiscard]] std::string text_of(const std::string& raw) const override;
  [[nodiscard]] std::string units_of(const std::string& raw) const override;
  [[nodiscard]] std::string date_of(const std::string& raw) const override;
  [[nodiscard]] std::string text_of_native(const std::string& raw) const override;
  [[nodiscard]] std::string units_of_native(const std::string& raw) const override;
  [[nodiscard]] std::string date_of_native(const std::string& raw) const override;
  [[nodiscard]] std::string time_of(const std::string& raw) const override;
  [[nodiscard]] std::string date_literal(Date day) const override;
  [[nodiscard]] std::string integer_literal(std::int64_t value) const override;
  [[nodiscard]] std::string product(const std::string& a, const std::string& b) const override;
  [[nodiscard]] std::string quotient(const std::string& a, const std::string& b) const override;
  [[nodiscard]] std::string part_of(expression::Op part, const std::string& date) const override;
  [[nodiscard]] std::string label_of(DayLabel label, const std::string& date) const override;
  [[nodiscard]] std::string start_of(DayLabel label, const std::string& date) const override;
  [[nodiscard]] std::string days_between(const std::string& a, const std::string& b) const override;
  [[nodiscard]] std::string days_later(const std::string& date, std::int64_t days) const override;
  [[nodiscard]] std::string by_code_point(const std::string& text) const override;
  [[nodiscard]] std::string lower(const std::string& text) const override;
  [[nodiscard]] std::string upper(const std::string& text) const override;
  [[nodiscard]] std::string trimmed(const std::string& text) const override;
  [[nodiscard]] std::string like(const std::string& text, const std::string& pattern) const override;
  [[nodiscard]] std::string part_of_text(const std::string& text, const std::string& first,
                                         const std::string& count) const override;
  [[nodiscard]] std::string length(const std::string& text) const override;
  [[nodiscard]] std::string text_of_units(const std::string& units) const override;
  [[nodiscard]] std::string text_of_date(const std::string& date) const override;
  [[nodiscard]] std::string same(const std::string& a, const std::string& b) const override;
  [[nodiscard]] std::string_view as_written() const override { return "NOT MATERIALIZED "; }
  [[nodiscard]] std::string_view begin_reading() const override {
    return "BEGIN TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY";
  }
};

}  // namespace pear::pushdown
