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
  switch (unit) {
    case Unit::text:
      return text(row).empty();
    case Unit::share:
      return std::isnan(fraction(row));
    default:
      return integer(row) == kEmptyCell;
  }
}

TableColumn text_column(std::string name, std::string description, TextArray values) {
  return {std::move(name), Unit::text, std::move(description), std::move(values), -1, false, {}, {}};
}

TableColumn text_column(std::string name, std::string description, CodedTexts values) {
  return {std::move(name), Unit::text, std::move(description), std::move(values), -1, false, {}, {}};
}

TableColumn integer_column(std::string name, Unit unit, std::string description,
                           std::vector<std::int64_t> values) {
  return {std::move(name), unit, std::move(description), std::move(values), -1, false, {}, {}};
}

TableColumn share_column(std::string name, std::string description, std::vector<double> values) {
  return {std::move(name), Unit::share, std::move(description), std::move(values), -1, false, {}, {}};
}

TableColumn worked_out_column(std::string name, Unit unit, std::string description,
                              WorkedOut<std::int64_t> values) {
  return {std::move(name), unit, std::move(description), std::move(values), -1, false, {}, {}};
}

TableColumn worked_out_share(std::string name, std::string description, WorkedOut<double> values) {
  return {std::move(name), Unit::share, std::move(description), std::move(values), -1, false, {}, {}};
}

TableColumn seen_from(const TableColumn& by_member, WorkedOut<std::uint32_t> members) {
  TableColumn column = by_member;
  const auto source = std::make_shared<TableColumn>(by_member);
  const std::size_t rows = members.rows;
  const auto at = [&](auto read) {
    return [source, member = std::move(members.at), read](std::size_t row) {
      return read(*source, member(row));
    };
  };
  if (by_member.unit == Unit::text)
    column.values = WorkedOut<std::string_view>{
        rows, at([](const TableColumn& of, std::uint32_t member) { return of.text(member); })};
  else if (by_member.unit == Unit::share)
    column.values = WorkedOut<double>{
        rows, at([](const TableColumn& of, std::uint32_t member) { return of.fraction(member); })};
  else
    column.values = WorkedOut<std::int64_t>{
        rows, at([](const TableColumn& of, std::uint32_t member) { return of.integer(member); })};
  return column;
}

namespace {

/// Six places. Through whole numbers, which is quick, but where it is hard to tell which way to round.
void append_share(std::string& text, double share) {
  const double millionths = share * 1e6;
  const double whole = std::nearbyint(millionths);
  const bool easy = share >= 0 && share <= 1 && std::abs(millionths - whole) < 0.4999;
  if (!easy) {
    fmt::format_to(std::back_inserter(text), "{:.6f}", share);
    return;
  }
  auto rest = static_cast<std::uint32_t>(whole);
  std::array<char, 8> digits = {'0', '.'};
  digits[0] = static_cast<char>('0' + rest / 1'000'000);
  for (std::size_t place = digits.size(); place-- > 2; rest /= 10)
    digits[place] = static_cast<char>('0' + rest % 10);
  text.append(digits.data(), digits.size());
}

}  // namespace

void append_cell(std::string& text, const TableColumn& column, std::size_t row) {
  if (column.unit == Unit::text) {
    text += column.text(row);
    return;
  }
  if (column.unit == Unit::share) {
    const double share = column.fraction(row);
    if (!std::isnan(share)) append_share(text, share);
    return;
  }
  const std::int64_t value = column.integer(row);
  if (value == kEmptyCell) return;
  switch (column.unit) {
    case Unit::date:
      text += to_text(Date{static_cast<std::int32_t>(value)});
      return;
    case Unit::money:
      Decimal::from_units(value).append_to(text, 2);
      return;
    case Unit::number:
      Decimal::from_units(value).append_to(text);
      return;
    default: {
      const fmt::format_int digits(value);
      text.append(digits.data(), digits.size());
      return;
    }
  }
}

std::string cell_text(const TableColumn& column, std::size_t row) {
  std::string text;
  append_cell(text, column, row);
  return text;
}

}  // namespace pear
