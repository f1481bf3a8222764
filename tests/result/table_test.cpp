// Tables: sorted and picked rows of all kinds of columns, and the texts of cells.
#include "result/table.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <memory>
#include <numeric>
#include <optional>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "base/natural_order.hpp"
#include "result/cell_text.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

using result::TableColumn;
using result::Unit;

/// A cell as a value that can be compared; none if it is empty.
struct Cell {
  std::string text;
  double number = 0;
};
using Cells = std::vector<std::optional<Cell>>;

std::string random_text() {
  static const std::vector<std::string> texts = {"", "C2", "C10", "c2", "C2a", "Zoë", "a\"b", "1,5"};
  return texts[static_cast<std::size_t>(pick(0, static_cast<int>(texts.size()) - 1))];
}

TextArray texts_of(const std::vector<std::string>& texts) {
  TextArray array;
  for (const std::string& text : texts) array.push_back(text);
  return array;
}

/// A column of texts in one of its four forms, and its cells.
TableColumn random_texts(std::size_t rows, Cells& cells) {
  std::vector<std::string> texts(rows);
  for (std::string& text : texts) {
    text = random_text();
    cells.push_back(text.empty() ? std::optional<Cell>() : Cell{text, 0});
  }
  TableColumn column = result::text_column("texts", "", texts_of(texts));
  const auto shared = std::make_shared<const TextArray>(texts_of(texts));
  switch (pick(0, 3)) {
    case 1: {
      result::CodedTexts coded{{}, shared};
      for (std::uint32_t row = 0; row < rows; ++row)
        coded.codes.push_back(texts[row].empty() ? result::CodedTexts::kNoText : row);
      column.values = coded;
      break;
    }
    case 2:
      column.values =
          result::computed<std::string_view>(rows, [shared](std::size_t row) { return (*shared)[row]; });
      break;
    case 3:
      column.values = result::computed<std::string>(
          rows, [shared](std::size_t row) { return std::string((*shared)[row]); });
      break;
    default:
      break;
  }
  return column;
}

TableColumn random_numbers(std::size_t rows, Cells& cells) {
  std::vector<std::int64_t> values(rows);
  for (std::int64_t& value : values) {
    value = pick(0, 4) == 0 ? result::kEmptyCell : pick(-3, 3);
    cells.push_back(value == result::kEmptyCell ? std::optional<Cell>()
                                                : Cell{"", static_cast<double>(value)});
  }
  if (pick(0, 1) == 0) return result::integer_column("numbers", Unit::count, "", values);
  return result::lazy_column(
      "numbers", Unit::count, "",
      result::computed<std::int64_t>(rows, [values](std::size_t row) { return values[row]; }));
}

TableColumn random_shares(std::size_t rows, Cells& cells) {
  std::vector<double> values(rows);
  for (double& value : values) {
    value = pick(0, 4) == 0 ? std::nan("") : pick(0, 4) / 4.0;
    cells.push_back(std::isnan(value) ? std::optional<Cell>() : Cell{"", value});
  }
  if (pick(0, 1) == 0) return result::share_column("shares", "", values);
  return result::lazy_share_column(
      "shares", "", result::computed<double>(rows, [values](std::size_t row) { return values[row]; }));
}

bool is_less(const Cell& a, const Cell& b) {
  return a.text == b.text ? a.number < b.number : NaturalLess{}(a.text, b.text);
}

RC_GTEST_PROP(Table, IsSortedByColumnsWithEmptyCellsLast, ()) {
  const auto rows = static_cast<std::size_t>(pick(0, 30));
  std::vector<Cells> cells(3);
  result::Table table;
  table.columns = {random_texts(rows, cells[0]), random_numbers(rows, cells[1]),
                   random_shares(rows, cells[2])};
  std::vector<std::pair<std::size_t, bool>> by;
  for (int key = pick(1, 3); key > 0; --key)
    by.emplace_back(static_cast<std::size_t>(pick(0, 2)), pick(0, 1) == 1);
  std::vector<std::uint32_t> wanted(rows);
  std::iota(wanted.begin(), wanted.end(), 0U);
  std::stable_sort(wanted.begin(), wanted.end(), [&](std::uint32_t a, std::uint32_t b) {
    for (const auto& [column, descends] : by) {
      const auto &x = cells[column][a], &y = cells[column][b];
      if (!x.has_value() || !y.has_value()) {
        if (x.has_value() == y.has_value()) continue;
        return x.has_value();
      }
      if (is_less(*x, *y)) return !descends;
      if (is_less(*y, *x)) return descends;
    }
    return false;
  });
  RC_ASSERT(result::row_order(table, by) == wanted);
}

RC_GTEST_PROP(Table, KeepsTotalsAndFaintRowsWherePicked, ()) {
  const auto rows = static_cast<std::size_t>(pick(1, 30));
  std::vector<Cells> cells(3);
  result::Table table;
  table.columns = {random_texts(rows, cells[0]), random_numbers(rows, cells[1]),
                   random_shares(rows, cells[2])};
  for (std::size_t row = 0; row < rows; ++row) {
    table.faint.push_back(static_cast<std::uint8_t>(pick(0, 1)));
    if (pick(0, 5) == 0) table.totals.push_back(row);
  }
  const result::Table before = table;
  std::vector<std::uint32_t> some;
  for (int i = pick(0, 20); i > 0; --i)
    some.push_back(static_cast<std::uint32_t>(pick(0, static_cast<int>(rows) - 1)));
  const result::Table picked = result::picked_rows(std::move(table), some);
  RC_ASSERT(picked.rows() == some.size());
  for (std::size_t row = 0; row < some.size(); ++row) {
    for (std::size_t column = 0; column < 3; ++column) {
      RC_ASSERT(result::cell_text(picked.columns[column], row) ==
                result::cell_text(before.columns[column], some[row]));
      RC_ASSERT(picked.columns[column].is_empty(row) == !cells[column][some[row]].has_value());
    }
    RC_ASSERT(picked.faint[row] == before.faint[some[row]]);
    const auto is_total = [](const result::Table& of, std::size_t at) {
      return std::find(of.totals.begin(), of.totals.end(), at) != of.totals.end();
    };
    RC_ASSERT(is_total(picked, row) == is_total(before, some[row]));
  }
}

/// A reader of any run of rows writes the texts of the cells, and the column of members is that of each
/// member.
RC_GTEST_PROP(CellReader, WritesTheTextOfEachCell, ()) {
  const auto rows = static_cast<std::size_t>(pick(1, 40));
  Cells cells;
  const TableColumn column = pick(0, 2) == 0   ? random_texts(rows, cells)
                             : pick(0, 1) == 0 ? random_numbers(rows, cells)
                                               : random_shares(rows, cells);
  std::vector<std::uint32_t> members(600);
  for (std::uint32_t& member : members)
    member = static_cast<std::uint32_t>(pick(0, static_cast<int>(rows) - 1));
  const TableColumn seen = result::seen_from(
      column, result::computed<std::uint32_t>(members.size(), [&](std::size_t row) { return members[row]; }));
  const auto begin = static_cast<std::size_t>(pick(0, 599)), end = static_cast<std::size_t>(pick(0, 599));
  result::CellReader reader(seen);
  reader.read(std::min(begin, end), std::max(begin, end));
  for (std::size_t row = std::min(begin, end); row < std::max(begin, end); ++row) {
    std::string text(result::CellReader::kLongest, '\0');
    if (reader.is_text())
      text = reader.text(row);
    else
      text.resize(static_cast<std::size_t>(reader.write(text.data(), row) - text.data()));
    RC_ASSERT(text == result::cell_text(column, members[row]));
  }
}

TEST(CellText, IsExactAndWithoutSeparators) {
  const auto integer = [](Unit unit, std::int64_t value) {
    return result::cell_text(result::integer_column("x", unit, "", {value}), 0);
  };
  EXPECT_EQ(integer(Unit::count, 1'234'567), "1234567");
  EXPECT_EQ(integer(Unit::count, 0), "0");
  EXPECT_EQ(integer(Unit::count, result::kEmptyCell), "");
  EXPECT_EQ(integer(Unit::money, 12'345'600), "1234.56");
  EXPECT_EQ(integer(Unit::money, 12'300'000), "1230.00");
  EXPECT_EQ(integer(Unit::money, -1), "-0.0001");
  EXPECT_EQ(integer(Unit::number, 15'000), "1.5");
  EXPECT_EQ(integer(Unit::number, 20'000), "2");
  EXPECT_EQ(integer(Unit::date, date_of(2024, 2, 29).days), "2024-02-29");
  EXPECT_EQ(integer(Unit::days, -3), "-3");
  EXPECT_EQ(integer(Unit::money, std::numeric_limits<std::int64_t>::max()), "922337203685477.5807");
  const auto share = [](double value) {
    return result::cell_text(result::share_column("x", "", {value}), 0);
  };
  EXPECT_EQ(share(0), "0.000000");
  EXPECT_EQ(share(1), "1.000000");
  EXPECT_EQ(share(1.0 / 3), "0.333333");
  EXPECT_EQ(share(2.0 / 3), "0.666667");
  EXPECT_EQ(share(-0.25), "-0.250000");
  EXPECT_EQ(share(12.5), "12.500000");
  EXPECT_EQ(share(std::nan("")), "");
  const auto probability = [](double value) {
    return result::cell_text(result::probability_column("x", "", {value}), 0);
  };
  EXPECT_EQ(probability(0.05), "0.05");
  EXPECT_EQ(probability(1.0 / 3), "0.333333");
  EXPECT_EQ(probability(1.234567e-12), "1.23457e-12");
}

/// The last of several columns of one name, as documented.
TEST(Table, FindsColumnsByName) {
  result::Table table;
  table.columns = {result::integer_column("a", Unit::count, "", {1}),
                   result::integer_column("b", Unit::count, "", {2}),
                   result::integer_column("a", Unit::count, "", {3})};
  EXPECT_EQ(table.column("a").integer(0), 3);
  EXPECT_EQ(table.column("b").integer(0), 2);
  EXPECT_THROW((void)table.column("c"), std::out_of_range);
  EXPECT_FALSE(table.ends_in_total());
  table.totals = {0};
  EXPECT_TRUE(table.ends_in_total());
}

}  // namespace
}  // namespace pear::test
