#include "result/table.hpp"

#include <algorithm>
#include <array>
#include <cmath>
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

std::string_view TableColumn::text(std::size_t row) const {
  if (const auto* coded = std::get_if<CodedTexts>(&values)) return (*coded)[row];
  if (const auto* texts = std::get_if<TextArray>(&values)) return (*texts)[row];
  if (const auto* seen = std::get_if<LazyColumn<std::string_view>>(&values)) return (*seen)[row];
  thread_local std::string text;
  text = std::get<LazyColumn<std::string>>(values)[row];
  return text;
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
  if (const auto* composed = std::get_if<LazyColumn<std::string>>(&source->values))
    column.values = computed_from<std::string>(
        std::move(members), [source, composed](std::uint32_t member) { return (*composed)[member]; });
  else if (by_member.unit == Unit::text)
    column.values = computed_from<std::string_view>(
        std::move(members), [source](std::uint32_t member) { return source->text(member); });
  else if (is_fraction(by_member.unit))
    column.values = computed_from<double>(
        std::move(members), [source](std::uint32_t member) { return source->fraction(member); });
  else
    column.values = computed_from<std::int64_t>(
        std::move(members), [source](std::uint32_t member) { return source->integer(member); });
  return column;
}

namespace {

/// Whether a cell comes before another; empty ones come last in either direction.
bool comes_before(const TableColumn& column, bool descends, std::size_t a, std::size_t b) {
  const bool a_empty = column.is_empty(a), b_empty = column.is_empty(b);
  if (a_empty || b_empty) return !a_empty && b_empty;
  if (descends) std::swap(a, b);
  if (column.unit == Unit::text) {
    const std::string first(column.text(a));  // a copy: reading b may end its view
    return NaturalLess{}(first, column.text(b));
  }
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
  return computed<T>(rows.size(), [values, rows](std::size_t row) { return values[rows[row]]; });
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
