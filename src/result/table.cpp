#include "result/table.hpp"

#include <array>
#include <cmath>
#include <iterator>
#include <utility>

#include <fmt/format.h>

namespace pear {

std::string_view to_text(Unit unit) {
  constexpr std::array<std::string_view, 7> kNames = {"text",  "count", "days",  "date",
                                                      "money", "share", "number"};
  return kNames.at(static_cast<std::size_t>(unit));
}

std::size_t TableColumn::size() const {
  return std::visit([](const auto& array) { return array.size(); }, values);
}

bool TableColumn::is_empty(std::size_t row) const {
  if (const auto* integers = std::get_if<0>(&values)) return (*integers)[row] == kEmptyCell;
  if (const auto* fractions = std::get_if<1>(&values)) return std::isnan((*fractions)[row]);
  return text(row).empty();
}

TableColumn text_column(std::string name, std::string description, TextArray values) {
  return {std::move(name), Unit::text, std::move(description), std::move(values), -1, false, {}, {}};
}

TableColumn integer_column(std::string name, Unit unit, std::string description,
                           std::vector<std::int64_t> values) {
  return {std::move(name), unit, std::move(description), std::move(values), -1, false, {}, {}};
}

TableColumn share_column(std::string name, std::string description, std::vector<double> values) {
  return {std::move(name), Unit::share, std::move(description), std::move(values), -1, false, {}, {}};
}

void append_cell(std::string& text, const TableColumn& column, std::size_t row) {
  if (column.is_empty(row)) return;
  switch (column.unit) {
    case Unit::text:
      text += column.text(row);
      return;
    case Unit::count:
    case Unit::days: {
      const fmt::format_int digits(column.integer(row));
      text.append(digits.data(), digits.size());
      return;
    }
    case Unit::date:
      text += to_text(Date{static_cast<std::int32_t>(column.integer(row))});
      return;
    case Unit::money:
      text += Decimal::from_units(column.integer(row)).to_text(2);
      return;
    case Unit::number:
      text += Decimal::from_units(column.integer(row)).to_text();
      return;
    case Unit::share:
      fmt::format_to(std::back_inserter(text), "{:.6f}", column.fraction(row));
      return;
  }
}

std::string cell_text(const TableColumn& column, std::size_t row) {
  std::string text;
  append_cell(text, column, row);
  return text;
}

}  // namespace pear
