#include "support/sql_opinion.hpp"

#include <stdexcept>

#include <fmt/format.h>
#include <sqlite3.h>

#include "expression/rows/line_view.hpp"
#include "result/cell_text.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

Cells run(sqlite3* database, const std::string& sql) {
  Cells rows;
  char* fault = nullptr;
  const auto collect = [](void* into, int columns, char** texts, char**) {
    std::vector<std::string> row;
    for (int i = 0; i < columns; ++i) row.emplace_back(texts[i] == nullptr ? "" : texts[i]);
    static_cast<Cells*>(into)->push_back(std::move(row));
    return 0;
  };
  if (sqlite3_exec(database, sql.c_str(), collect, &rows, &fault) != SQLITE_OK)
    throw std::runtime_error(fault);
  return rows;
}

/// share(part, whole): the quotient as files write shares; 0 if the whole is 0. SQLite's own printf rounds
/// halves another way.
void share(sqlite3_context* context, int, sqlite3_value** values) {
  const double whole = sqlite3_value_double(values[1]);
  const std::string text =
      fmt::format("{:.6f}", whole == 0 ? 0 : sqlite3_value_double(values[0]) / whole + 0.0);  // no -0
  sqlite3_result_text(context, text.c_str(), static_cast<int>(text.size()), SQLITE_TRANSIENT);
}

}  // namespace

Cells ask_sql(const Sales& sales, const std::string& sql_file, std::optional<int> window) {
  sqlite3* database = nullptr;
  sqlite3_open(":memory:", &database);
  std::string lines =
      "CREATE TABLE lines (order_id, order_date, customer_id, product_id, quantity, unit_price);";
  for (const Sale& sale : sales)
    lines += fmt::format("INSERT INTO lines VALUES ('{}','{}','{}','{}',{},{});", sale.order_id, sale.date,
                         sale.customer_id, sale.product_id, sale.quantity,
                         static_cast<double>(sale.unit_price) / 100);
  run(database, lines);
  std::string sql = read_file(std::string(PEAR_SQL_FOLDER) + "/" + sql_file);
  for (std::size_t at = sql.find(":window"); at != std::string::npos; at = sql.find(":window", at))
    sql.replace(at, 7, window ? std::to_string(*window) : "NULL");
  Cells rows = run(database, sql);
  sqlite3_close(database);
  return rows;
}

LinesInSql::LinesInSql(const daybook::Daybook& daybook) {
  sqlite3_open(":memory:", &database_);
  sqlite3_create_function(database_, "share", 2, SQLITE_UTF8, nullptr, share, nullptr, nullptr);
  const expression::LineView lines(daybook);
  const expression::RowView& view = lines.rows();
  std::string create = "CREATE TABLE lines (";
  for (const expression::ViewColumn& column : view.columns) {
    create += fmt::format("{}{}", &column == &view.columns.front() ? "" : ", ", column.name);
    if (std::holds_alternative<daybook::DecimalValues>(*column.values))
      create += fmt::format(" REAL, {}_u INTEGER", column.name);
  }
  run(database_, create + "); BEGIN;");
  for (std::size_t row = 0; row < view.rows; ++row) {
    std::string values;
    for (const expression::ViewColumn& column : view.columns) {
      const std::uint32_t member = column.member(row);
      const std::string text = daybook::value_text(*column.values, member);
      if (!values.empty()) values += ", ";
      if (const auto* decimals = std::get_if<daybook::DecimalValues>(column.values)) {
        const bool empty = decimals->units[member] == daybook::kEmptyUnits;
        values += empty ? "NULL, NULL" : fmt::format("{}, {}", text, decimals->units[member]);
      } else if (std::holds_alternative<daybook::FlagValues>(*column.values)) {
        values += text == "true" ? "1" : "0";
      } else {
        values += text.empty() ? "NULL" : "'" + text + "'";
      }
    }
    run(database_, "INSERT INTO lines VALUES (" + values + ");");
  }
}

LinesInSql::~LinesInSql() { sqlite3_close(database_); }

Cells LinesInSql::ask(const std::string& sql) const { return run(database_, sql); }

Cells cells_of(const result::Table& table) {
  Cells cells(table.rows());
  for (std::size_t row = 0; row < table.rows(); ++row) {
    for (const result::TableColumn& column : table.columns)
      cells[row].push_back(result::cell_text(column, row));
  }
  return cells;
}

}  // namespace pear::test
