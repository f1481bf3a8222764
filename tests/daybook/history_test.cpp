// The lines that a selection keeps, and the columns of histories, against SQL.
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "daybook/columns/derived_columns.hpp"
#include "daybook/select.hpp"
#include "expression/rows/line_view.hpp"
#include "support/random_shop.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

/// Every line with its order, customer and product, as texts.
Cells cells_of_lines(const daybook::Daybook& daybook) {
  const expression::LineView lines(daybook);
  const expression::RowView& view = lines.rows();
  Cells cells(view.rows);
  for (std::size_t row = 0; row < view.rows; ++row) {
    for (const expression::ViewColumn& column : view.columns)
      cells[row].push_back(daybook::value_text(*column.values, column.member(row)));
  }
  return cells;
}

RC_GTEST_PROP(Select, KeepsExactlyTheChosenLinesInOrder, ()) {
  const daybook::Daybook daybook = random_daybook();
  std::vector<std::uint8_t> chosen;
  Cells expected;
  const Cells all = cells_of_lines(daybook);
  for (const auto& line : all) {
    chosen.push_back(pick(0, 2) == 0 ? 0 : 1);
    if (chosen.back() != 0) expected.push_back(line);
  }
  const daybook::Daybook part = daybook::select_lines(daybook, chosen);
  RC_ASSERT(cells_of_lines(part) == expected);
  for (std::uint32_t c = 0; c < part.customers(); ++c) RC_ASSERT(part.orders_of(c).size() > 0U);
  for (std::uint32_t o = 0; o < part.orders(); ++o) RC_ASSERT(part.lines_of(o).size() > 0U);
}

RC_GTEST_PROP(History, ColumnsEqualSql, ()) {
  const daybook::Daybook daybook = build(random_sales()).daybook;
  const LinesInSql sql(daybook::completed(
      daybook, daybook::known_columns({"order_date", "is_return", "product_id", "amount"})));
  const Cells ours = sql.ask(
      "SELECT DISTINCT customer_id, first_order_date, first_year_u / 10000, first_month, last_order_date, "
      "customer_orders_u / 10000, customer_products_u / 10000, customer_amount_u FROM lines ORDER BY "
      "customer_id");
  const Cells theirs = sql.ask(
      "SELECT customer_id, min(order_date) FILTER (WHERE NOT is_return),"
      " CAST(substr(min(order_date) FILTER (WHERE NOT is_return), 1, 4) AS INTEGER),"
      " substr(min(order_date) FILTER (WHERE NOT is_return), 1, 7), max(order_date) FILTER (WHERE NOT "
      "is_return),"
      " count(DISTINCT order_id) FILTER (WHERE NOT is_return), count(DISTINCT product_id) FILTER (WHERE NOT "
      "is_return),"
      " sum(amount_u) FROM lines GROUP BY customer_id ORDER BY customer_id");
  RC_ASSERT(ours == theirs);
}

/// Against SQL's window functions, over all lines in the order of the daybook.
RC_GTEST_PROP(OrderHistory, EqualsWindowFunctionsOfSql, ()) {
  const daybook::Daybook daybook = build(random_sales()).daybook;
  const LinesInSql sql(daybook::completed(
      daybook, daybook::known_columns({"order_date", "is_return", "product_id", "amount"})));
  const Cells ours = sql.ask(
      "SELECT rowid, order_number_u / 10000, orders_left_u / 10000, days_since_first_u / 10000,"
      " months_since_first_u / 10000, days_since_previous_u / 10000, is_first_order, order_kind,"
      " purchase_number_u / 10000, days_since_last_purchase_u / 10000, is_new_product FROM lines ORDER BY "
      "rowid");
  const Cells theirs = sql.ask(
      "WITH orders AS (SELECT customer_id, order_id, min(rowid) AS place, min(order_date) AS day,"
      "   max(NOT is_return) AS counts FROM lines GROUP BY customer_id, order_id),"
      " numbered AS (SELECT *, sum(counts) OVER before AS number, sum(counts) OVER whole AS total,"
      "   min(day) FILTER (WHERE counts) OVER whole AS first,"
      "   max(day) FILTER (WHERE counts) OVER (PARTITION BY customer_id ORDER BY place"
      "     ROWS BETWEEN UNBOUNDED PRECEDING AND 1 PRECEDING) AS previous FROM orders"
      "   WINDOW whole AS (PARTITION BY customer_id),"
      "   before AS (PARTITION BY customer_id ORDER BY place ROWS UNBOUNDED PRECEDING)),"
      " bought AS (SELECT customer_id, order_id, product_id, min(rowid) AS place, min(order_date) AS day"
      "   FROM lines WHERE NOT is_return GROUP BY customer_id, order_id, product_id),"
      " purchases AS (SELECT *, row_number() OVER product AS number, lag(day) OVER product AS previous FROM "
      "bought"
      "   WINDOW product AS (PARTITION BY customer_id, product_id ORDER BY place))"
      " SELECT lines.rowid, iif(counts, n.number, NULL), iif(counts, total - n.number, NULL),"
      " iif(counts, CAST(julianday(n.day) - julianday(first) AS INTEGER), NULL),"
      " iif(counts, 12 * (strftime('%Y', n.day) - strftime('%Y', first)) + strftime('%m', n.day) -"
      "   strftime('%m', first) - (strftime('%d', n.day) < strftime('%d', first)), NULL),"
      " iif(counts, CAST(julianday(n.day) - julianday(n.previous) AS INTEGER), NULL), counts AND n.number = "
      "1,"
      " CASE WHEN counts AND n.number = 1 THEN 'new' WHEN n.number > 0 THEN 'returning' END,"
      " iif(is_return, NULL, p.number),"
      " iif(is_return, NULL, CAST(julianday(p.day) - julianday(p.previous) AS INTEGER)),"
      " NOT is_return AND p.number = 1"
      " FROM lines JOIN numbered AS n USING (customer_id, order_id)"
      " LEFT JOIN purchases AS p USING (customer_id, order_id, product_id) ORDER BY lines.rowid");
  for (std::size_t line = 0; line < ours.size(); ++line)
    if (ours[line] != theirs[line])
      RC_FAIL(fmt::format("line {}: {} and in SQL {}", line + 1, fmt::join(ours[line], " | "),
                          fmt::join(theirs[line], " | ")));
}

}  // namespace
}  // namespace pear::test
