#include "result/table.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <iterator>
#include <numeric>
#include <stdexcept>
#include <utility>

#include <fmt/format.h>

#include "base/natural_order.hpp"

namespace pear::result {

std::string_view to_text(Unit unit) {
  constexpr std::array<std::string_view, 8> kNames = {"text",  "count", "days",   "date",
                                                      "money", "share", "number", "probability"};
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
    case Unit::probability:
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

TableColumn probability_column(std::string name, std::string description, std::vector<double> values) {
  return {std::move(name), Unit::probability, std::move(description), std::move(values), -1, false, {}, {}};
}

TableColumn lazy_column(std::string name, Unit unit, std::string description,
                        LazyColumn<std::int64_t> values) {
  return {std::move(name), unit, std::move(description), std::move(values), -1, false, {}, {}};
}

TableColumn lazy_share_column(std::string name, std::string description, LazyColumn<double> values) {
  return {std::move(name), Unit::share, std::move(description), std::move(values), -1, false, {}, {}};
}

TableColumn seen_from(const TableColumn& by_member, LazyColumn<std::uint32_t> members) {
  TableColumn column = by_member;
  const auto source = std::make_shared<TableColumn>(by_member);
  const std::size_t rows = members.rows;
  const auto at = [&](auto read) {
    return [source, member = std::move(members.at), read](std::size_t row) {
      return read(*source, member(row));
    };
  };
  if (by_member.unit == Unit::text)
    column.values = LazyColumn<std::string_view>{
        rows, at([](const TableColumn& of, std::uint32_t member) { return of.text(member); })};
  else if (is_fraction(by_member.unit))
    column.values = LazyColumn<double>{
        rows, at([](const TableColumn& of, std::uint32_t member) { return of.fraction(member); })};
  else
    column.values = LazyColumn<std::int64_t>{
        rows, at([](const TableColumn& of, std::uint32_t member) { return of.integer(member); })};
  return column;
}

namespace {

/// Six places. Uses integers, which is fast, except where the direction of rounding is uncertain.
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
  if (is_fraction(column.unit)) {
    const double fraction = column.fraction(row);
    if (std::isnan(fraction)) return;
    if (column.unit == Unit::share)
      append_share(text, fraction);
    else
      fmt::format_to(std::back_inserter(text), "{:.6g}", fraction);
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

namespace {

/// Whether a cell comes before another; empty ones come last in either direction.
bool comes_before(const TableColumn& column, bool descends, std::size_t a, std::size_t b) {
  const bool a_empty = column.is_empty(a), b_empty = column.is_empty(b);
  if (a_empty || b_empty) return !a_empty && b_empty;
  if (descends) std::swap(a, b);
  if (column.unit == Unit::text) return NaturalLess{}(column.text(a), column.text(b));
  return is_fraction(column.unit) ? column.fraction(a) < column.fraction(b)
                                  : column.integer(a) < column.integer(b);
}

}  // namespace

const TableColumn& Table::column(std::string_view name) const {
  const auto found = std::find_if(columns.rbegin(), columns.rend(),
                                  [&](const TableColumn& each) { return each.name == name; });
  if (found == columns.rend()) throw std::out_of_range(fmt::format("the table has no column {}", name));
  return *found;
}

TableColumn& Table::column(std::string_view name) {
  return const_cast<TableColumn&>(std::as_const(*this).column(name));
}

namespace {

template <class T>
std::vector<T> picked(const std::vector<T>& values, const std::vector<std::uint32_t>& rows) {
  std::vector<T> all;
  all.reserve(rows.size());
  for (const std::uint32_t row : rows) all.push_back(values[row]);
  return all;
}
TextArray picked(const TextArray& values, const std::vector<std::uint32_t>& rows) {
  return values.picked(rows);
}
CodedTexts picked(const CodedTexts& values, const std::vector<std::uint32_t>& rows) {
  return {picked(values.codes, rows), values.texts};
}
template <class T>
LazyColumn<T> picked(const LazyColumn<T>& values, const std::vector<std::uint32_t>& rows) {
  return {rows.size(), [at = values.at, rows](std::size_t row) { return at(rows[row]); }};
}

}  // namespace

Table picked_rows(Table table, const std::vector<std::uint32_t>& rows) {
  std::vector<std::uint8_t> is_total(table.rows());
  for (const std::size_t total : table.totals) is_total[total] = 1;
  table.totals.clear();
  for (std::size_t row = 0; row < rows.size(); ++row)
    if (is_total[rows[row]] != 0) table.totals.push_back(row);
  for (TableColumn& column : table.columns)
    std::visit([&](auto& values) { values = picked(values, rows); }, column.values);
  if (!table.faint.empty()) table.faint = picked(table.faint, rows);
  return table;
}

std::vector<std::uint32_t> row_order(const Table& table,
                                     const std::vector<std::pair<std::size_t, bool>>& by) {
  std::vector<std::uint32_t> order(table.rows());
  std::iota(order.begin(), order.end(), 0U);
  std::stable_sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
    for (const auto& [column, descends] : by) {
      if (comes_before(table.columns[column], descends, a, b)) return true;
      if (comes_before(table.columns[column], descends, b, a)) return false;
    }
    return false;
  });
  return order;
}

}  // namespace pear::result
