// Random expressions over random rows, against SQLite.
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <sqlite3.h>

#include "base/decimal.hpp"
#include "expression/expression.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

std::string truth(int depth);

std::string number(int depth) {
  if (depth == 0) return pick(0, 2) == 0 ? std::to_string(pick(0, 4)) : pick(0, 1) == 0 ? "a" : "b";
  const auto inner = [&] { return number(depth - 1); };
  switch (pick(0, 6)) {
    case 0:
      return fmt::format("({} + {})", inner(), inner());
    case 1:
      return fmt::format("({} - {} * {})", inner(), inner(), inner());
    case 2:
      return fmt::format("abs({})", inner());
    case 3:
      return fmt::format("coalesce({}, {})", inner(), inner());
    case 4:
      return fmt::format("nullif({}, {})", inner(), inner());
    case 5:
      return fmt::format("CASE WHEN {} THEN {} WHEN {} THEN {} ELSE {} END", truth(depth - 1), inner(),
                         truth(depth - 1), inner(), inner());
    default:
      return fmt::format("CASE {} WHEN 1 THEN {} END", inner(), inner());
  }
}

std::string text(int depth) {
  const char* const words[] = {"s", "t", "'ab'", "'B_'", "'it''s'"};
  if (depth == 0) return words[pick(0, 4)];
  const auto inner = [&] { return text(depth - 1); };
  switch (pick(0, 3)) {
    case 0:
      return fmt::format("({} || {})", inner(), inner());
    case 1:
      return fmt::format("upper({})", inner());
    case 2:
      return fmt::format("coalesce({}, {})", inner(), inner());
    default:
      return fmt::format("substring({}, {}, {})", inner(), pick(1, 3), pick(0, 3));
  }
}

std::string truth(int depth) {
  const auto a = [&] { return number(depth > 0 ? depth - 1 : 0); };
  const auto s = [&] { return text(depth > 0 ? depth - 1 : 0); };
  if (depth == 0) return fmt::format("{} < {}", a(), a());
  const auto inner = [&] { return truth(depth - 1); };
  switch (pick(0, 9)) {
    case 0:
      return fmt::format("({} AND {})", inner(), inner());
    case 1:
      return fmt::format("({} OR {})", inner(), inner());
    case 2:
      return fmt::format("NOT ({})", inner());
    case 3:
      return fmt::format("{} {} {}", a(),
                         std::vector<std::string>{"=", "<>", "<=", ">"}[static_cast<std::size_t>(pick(0, 3))],
                         a());
    case 4:
      return fmt::format("{} < {}", s(), s());
    case 5:
      return fmt::format("{} IN ({}, {}, NULL)", a(), a(), a());
    case 6:
      return fmt::format("{} NOT IN ({}, {})", s(), s(), s());
    case 7:
      return fmt::format("{} BETWEEN {} AND {}", a(), a(), a());
    case 8:
      return fmt::format(
          "{} LIKE '{}'", s(),
          std::vector<std::string>{"%b%", "_", "a%", "%"}[static_cast<std::size_t>(pick(0, 3))]);
    default:
      return fmt::format("{} IS {}NULL", s(), pick(0, 1) == 0 ? "NOT " : "");
  }
}

/// The same rows for both: numbers a and b, texts s and t, each sometimes empty.
struct Rows {
  daybook::ColumnValues a = daybook::DecimalValues{}, b = daybook::DecimalValues{}, s = daybook::TextValues{},
                        t = daybook::TextValues{};
  expression::RowView view;
  std::string insert;

  Rows() {
    const char* const words[] = {"a", "ab", "B", "b%", "Äb", "it's"};
    for (daybook::ColumnValues* column : {&s, &t}) {
      for (const char* word : words) std::get<daybook::TextValues>(*column).dictionary.push_back(word);
    }
    view.rows = static_cast<std::size_t>(pick(1, 12));
    for (std::size_t row = 0; row < view.rows; ++row) {
      std::string values;
      for (daybook::ColumnValues* column : {&a, &b}) {
        const int value = pick(-3, 4);
        std::get<daybook::DecimalValues>(*column).units.push_back(value == 4 ? daybook::kEmptyUnits
                                                                             : value * Decimal::kScale);
        values += (value == 4 ? "NULL" : std::to_string(value)) + ", ";
      }
      for (daybook::ColumnValues* column : {&s, &t}) {
        const int word = pick(0, 6);
        std::get<daybook::TextValues>(*column).codes.push_back(word == 6 ? daybook::kEmptyCode
                                                                         : static_cast<std::uint32_t>(word));
        std::string quoted = "NULL";
        if (word < 6) quoted = "'" + (word == 5 ? std::string("it''s") : words[word]) + "'";
        values += quoted + (column == &s ? ", " : "");
      }
      insert += "INSERT INTO rows VALUES (" + values + ");";
    }
    view.columns = {{"a", &a}, {"b", &b}, {"s", &s}, {"t", &t}};
  }
};

std::vector<std::string> by_sqlite(const Rows& rows, const std::string& expression) {
  sqlite3* database = nullptr;
  sqlite3_open(":memory:", &database);
  const std::string script = "PRAGMA case_sensitive_like = ON; CREATE TABLE rows (a, b, s, t);" + rows.insert;
  sqlite3_exec(database, script.c_str(), nullptr, nullptr, nullptr);
  sqlite3_stmt* statement = nullptr;
  const std::string query = "SELECT " + expression + " FROM rows ORDER BY rowid";
  EXPECT_EQ(sqlite3_prepare_v2(database, query.c_str(), -1, &statement, nullptr), SQLITE_OK) << expression;
  std::vector<std::string> values;
  while (sqlite3_step(statement) == SQLITE_ROW) {
    const auto* value = sqlite3_column_text(statement, 0);
    values.emplace_back(value == nullptr ? "NULL" : reinterpret_cast<const char*>(value));
  }
  sqlite3_finalize(statement);
  sqlite3_close(database);
  return values;
}

std::vector<std::string> by_us(const Rows& rows, const std::string& text) {
  const auto expression = expression::Expression::compile(text, rows.view);
  if (!expression) return {expression.error().message};
  const expression::Values values = *expression->evaluate_checked(rows.view, 0, rows.view.rows);
  std::vector<std::string> all;
  for (std::size_t row = 0; row < values.size(); ++row) {
    if (values.states[row] != expression::ValueState::filled) {
      all.emplace_back("NULL");
    } else if (values.type == expression::ValueType::truth) {
      all.emplace_back(values.numbers[row] != 0 ? "1" : "0");
    } else {
      all.push_back(expression::value_text(values, row));
    }
  }
  return all;
}

RC_GTEST_PROP(ExpressionTwin, SqliteAgrees, ()) {
  const Rows rows;
  const int kind = pick(0, 2), depth = pick(0, 3);
  const std::string expression = kind == 0 ? number(depth) : kind == 1 ? text(depth) : truth(depth);
  RC_LOG() << expression << "\n" << rows.insert;
  RC_ASSERT(by_us(rows, expression) == by_sqlite(rows, expression));
  const auto codes = expression::codes_of(*expression::Expression::compile(expression, rows.view), rows.view);
  const auto values = by_us(rows, expression);
  for (std::size_t row = 1; row < values.size(); ++row)
    RC_ASSERT(((*codes)[row] == (*codes)[0]) == (values[row] == values[0]));
}

}  // namespace
}  // namespace pear::test
