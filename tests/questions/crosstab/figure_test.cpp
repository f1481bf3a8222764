// The figure of crosstab: what is drawn adds up to what is in the table.
#include <map>
#include <variant>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "result/cell_text.hpp"
#include "support/asking.hpp"
#include "support/results.hpp"

namespace pear::test {
namespace {

/// More products, customers and months than a figure shows.
Sales many_values() {
  Sales sales;
  const int products = pick(1, 50), customers = pick(1, 20), months = pick(1, 30);
  for (int line = pick(1, 200); line > 0; --line) {
    const int month = pick(0, months - 1);
    sales.push_back({fmt::format("A{}", line), fmt::format("{}-{:02}-15", 2022 + month / 12, month % 12 + 1),
                     fmt::format("C{}", pick(1, customers)), fmt::format("P{}", pick(1, products)),
                     pick(1, 9), 100 * pick(1, 50)});
  }
  return sales;
}

std::int64_t units_in(const std::string& cell) { return cell.empty() ? 0 : Decimal::parse(cell)->units(); }

/// The columns that are drawn, without that of totals.
std::vector<const result::TableColumn*> series_of(const result::Figure& figure) {
  std::vector<std::string> names;
  std::visit(
      [&](const auto& chart) {
        if constexpr (requires { chart.series; }) names = chart.series;
        if constexpr (
            requires { chart.series; } == false && requires { chart.value; })
          names = {chart.value};
      },
      figure.chart);
  std::vector<const result::TableColumn*> columns;
  for (const std::string& name : names) columns.push_back(&figure.marks.column(name));
  return columns;
}

RC_GTEST_PROP(CrosstabFigure, AddsUpToTheTable, ()) {
  static const std::vector<std::string> kKeys = {"product_id", "customer_id", "month", "weekday", "year"};
  const Sales sales = many_values();
  const auto down = static_cast<std::size_t>(pick(0, 4)), across = static_cast<std::size_t>(pick(0, 5));
  analysis::OptionValues options = {
      {"down", kKeys[down]},
      {"count", *rc::gen::element<std::string>("sum(amount)", "sum(quantity)", "lines")}};
  const bool has_across = across < kKeys.size() && across != down;
  if (has_across) options.emplace_back("across", kKeys[across]);
  const result::Result result = ask("crosstab", options, sales);
  const result::Table& table = result.tables.front();
  const std::size_t last = table.rows() - 1;
  const std::size_t total = table.columns.size() - 1;  // of each row
  std::map<std::string, std::int64_t> of_rows, of_columns;
  for (std::size_t row = 0; row < last; ++row)
    of_rows[result::cell_text(table.columns[0], row)] =
        units_in(result::cell_text(table.columns[total], row));
  for (std::size_t i = 1; i < total; ++i)
    of_columns[table.columns[i].name] = units_in(result::cell_text(table.columns[i], last));
  const std::int64_t whole = units_in(result::cell_text(table.columns[total], last));

  // One value needs no figure.
  RC_ASSERT(result.figures.empty() == (of_rows.size() <= 1 && of_columns.size() <= 1));
  if (result.figures.empty()) return;
  const result::Table& marks = result.figures.front().marks;
  const auto series = series_of(result.figures.front());
  std::int64_t drawn = 0, matched = 0;
  for (std::size_t row = 0; row < marks.rows(); ++row) {
    const std::string label = result::cell_text(marks.columns[0], row);
    std::int64_t sum = 0;
    for (const result::TableColumn* each : series) sum += units_in(result::cell_text(*each, row));
    drawn += sum;
    if (label.starts_with("other (")) continue;
    if (of_rows.contains(label)) RC_ASSERT(sum == of_rows.at(label));
    if (!of_rows.contains(label)) RC_ASSERT(sum == of_columns.at(label));
    ++matched;
  }
  RC_ASSERT(drawn == whole);
  RC_ASSERT(matched >= 1);
  if (!has_across) return;
  // Series, too, are rows or columns of the table, or the rest.
  for (const result::TableColumn* each : series) {
    std::int64_t sum = 0;
    for (std::size_t row = 0; row < marks.rows(); ++row) sum += units_in(result::cell_text(*each, row));
    if (of_columns.contains(each->title())) RC_ASSERT(sum == of_columns.at(each->title()));
    if (of_rows.contains(each->title())) RC_ASSERT(sum == of_rows.at(each->title()));
  }
}

/// A single value down has nothing to compare: those across are.
TEST(CrosstabFigure, ComparesTheAxisWithSeveralValues) {
  const Sales sales = {{"A1", "2024-01-05", "C1", "P1", 1, 1000}, {"A2", "2024-02-05", "C1", "P2", 1, 3000}};
  const result::Result result = ask("crosstab", {{"down", "customer_id"}, {"across", "product_id"}}, sales);
  EXPECT_EQ(result.headline,
            (std::vector<std::string>{
                "Highest sales by product: P2 with 30.00 (75.0% of 40.00); lowest: P1 with 10.00."}));
  EXPECT_EQ(result.figures.at(0).subtitle, "sales by product_id; 1 customer");
  EXPECT_TRUE(std::holds_alternative<result::RankedBarChart>(result.figures[0].chart));
  const result::Result one = ask("crosstab", {{"down", "customer_id"}, {"across", "year"}}, sales);
  EXPECT_EQ(one.headline, (std::vector<std::string>{"sales by customer: C1 with 40.00 (100.0% of 40.00)."}));
  EXPECT_TRUE(one.figures.empty());
}

}  // namespace
}  // namespace pear::test
