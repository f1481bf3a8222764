// distinct compared with SQL, for any columns, and cases where counts are confused.
#include <algorithm>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <tbb/global_control.h>

#include "support/asking.hpp"
#include "support/results.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

const std::vector<std::string> kColumns = {"customer_id", "product_id", "region",    "channel",
                                           "category",    "note",       "order_date"};

std::string in_sql(const std::string& column) {
  return column == "order_id" ? "customer_id || '|' || order_id" : column;
}

RC_GTEST_PROP(Distinct, EqualsSqlForAnyColumns, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  std::vector<std::string> choice = kColumns;
  choice.emplace_back("order_id");
  const std::string counted = choice[static_cast<std::size_t>(pick(0, 7))];
  std::vector<std::string> per;
  for (const std::string& column : kColumns)
    if (pick(0, 3) == 0 && column != counted) per.push_back(column);
  std::string names, labels;
  for (const std::string& column : per) {
    names += (names.empty() ? "" : ",") + column;
    labels += fmt::format("coalesce({}, '(empty)'), ", column);
  }
  analysis::OptionValues options = {{"count", counted}, {"list", "true"}};
  if (!per.empty()) options.emplace_back("per", names);
  const result::Result result = ask("distinct", options, daybook);
  const std::string group = per.empty() ? "" : " GROUP BY " + names;
  const Cells theirs =
      sql.ask(fmt::format("SELECT {}count(DISTINCT {}), count(DISTINCT {}), count(*) FROM lines WHERE NOT "
                          "is_return{} HAVING count(*) > 0",
                          labels, in_sql(counted), in_sql("order_id"), group));
  RC_ASSERT(sorted(cells_of(result.tables.front())) == sorted(theirs));
  const Cells members = sql.ask(fmt::format(
      "SELECT {0}{1}, min(order_date) FILTER (WHERE NOT is_return), max(order_date) FILTER (WHERE NOT "
      "is_return),"
      " count(DISTINCT {2}) FILTER (WHERE NOT is_return), printf('%.2f', sum(amount_u) / 10000.0) FROM lines"
      " WHERE {1} IS NOT NULL GROUP BY {3}{4} HAVING min(is_return) = 0",
      labels, counted, in_sql("order_id"), names.empty() ? "" : names + ",", in_sql(counted)));
  RC_ASSERT(sorted(cells_of(table(result, "list"))) == sorted(members));
  expect_checks_hold(result);
}

RC_GTEST_PROP(Distinct, ProductsOfCustomersEqualTheSqlOfTheBenchmark, ()) {
  const Sales sales = random_sales();
  RC_ASSERT(cells_of(ask("distinct", {{"per", "customer_id"}}, sales).tables.front()) ==
            ask_sql(sales, "distinct.sql"));
}

TEST(Distinct, RowsAreSortedByNumberAndTheDistributionAddsThemUp) {
  const Sales sales = {{"A1", "2024-01-01", "C1", "P1", 1, 100}, {"A1", "2024-01-01", "C1", "P2", 1, 100},
                       {"A2", "2024-01-02", "C1", "P1", 1, 100}, {"A3", "2024-01-03", "C2", "P1", 1, 100},
                       {"A4", "2024-01-04", "C3", "P3", 2, 100}, {"A5", "2024-01-05", "C3", "P3", -2, 100}};
  const result::Result result = ask("distinct", {{"per", "customer_id"}}, sales);
  EXPECT_EQ(cells_of(result.tables[0]),
            (Cells{{"C1", "2", "2", "3"}, {"C2", "1", "1", "1"}, {"C3", "1", "1", "1"}}));
  EXPECT_EQ(cells_of(table(result, "distribution")),
            (Cells{{"1", "2", "0.666667", "0.666667"}, {"2", "1", "0.333333", "1.000000"}}));
  EXPECT_EQ(result.headline.front(),
            "Half of the 3 customers have 1 distinct product or fewer; C1 has the most: 2, in 3 lines of 2 "
            "orders.");
  EXPECT_EQ(result.notes, std::vector<std::string>{"1 line is not counted: it is a return."});
}

/// The trap: rows counted where distinct things were meant.
TEST(Trap, LinesAreNotCountedInsteadOfCustomers) {
  Sales sales;
  for (int i = 0; i < 203; ++i)
    sales.push_back({fmt::format("A{}", i / 2), "2024-01-01", fmt::format("C{}", i / 2 % 27),
                     fmt::format("P{}", i % 2), 1, 100});
  const result::Result result = ask("distinct", {{"count", "customer_id"}, {"list", "true"}}, sales);
  EXPECT_EQ(result.headline, std::vector<std::string>{"27 distinct customers, in 203 lines of 102 orders."});
  EXPECT_EQ(table(result, "list").rows(), 27U);
}

TEST(Distinct, RejectsWrongOptions) {
  const auto result = try_to_ask("distinct", {{"count", "product_id"}, {"per", "product_id"}},
                                 build({{"A1", "2024-01-01", "C1", "P1", 1, 100}}).daybook);
  ASSERT_FALSE(result.has_value());
  EXPECT_EQ(result.error().message, "--count \"product_id\" is in --per as well, so each count would be 1.");
}

TEST(Distinct, HeadlineIsTrueInEdgeCases) {
  const auto headline = [](const analysis::OptionValues& options, const Sales& sales) {
    return ask("distinct", options, sales).headline.front();
  };
  const Sales one = {{"A1", "2024-01-01", "C1", "P1", 1, 100}};
  EXPECT_EQ(headline({}, one), "1 distinct product, in 1 line of 1 order.");
  EXPECT_EQ(headline({{"per", "customer_id"}}, one), "C1: 1 distinct product, in 1 line of 1 order.");
  EXPECT_EQ(headline({{"per", "customer_id"}},
                     {{"A1", "2024-01-01", "C1", "P1", 1, 100}, {"A2", "2024-01-01", "C2", "P2", 1, 100}}),
            "All 2 customers have 1 distinct product.");
  EXPECT_EQ(headline({{"per", "customer_id"}}, {{"A1", "2024-01-01", "C1", "P1", -1, 100}}),
            "Nothing was bought: all lines are returns.");
}

/// More customers than a run of them, so that threads share the work.
TEST(Distinct, GivesTheSameForAnyNumberOfThreads) {
  Sales sales;
  for (int i = 0; i < 60'000; ++i)
    sales.push_back({fmt::format("A{}", i), to_text(Date{19'000 + i * 7 % 1000}),
                     fmt::format("C{}", i * 31 % 20'011), fmt::format("P{}", i % 57 * (i % 57) % 57),
                     1 + i % 3, 100 + i % 900});
  const daybook::Daybook daybook = build(sales).daybook;
  std::vector<Cells> answers;
  for (const std::size_t threads : {1U, 2U, 5U}) {
    const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, threads);
    Cells all;
    for (const char* per : {"customer_id", "month", "customer_id,year"}) {
      const result::Result result =
          ask("distinct", {{"count", "product_id"}, {"per", per}, {"list", "true"}}, daybook);
      for (const result::Table& each : result.tables)
        for (auto& row : cells_of(each)) all.push_back(std::move(row));
    }
    answers.push_back(std::move(all));
  }
  EXPECT_EQ(answers[0], answers[1]);
  EXPECT_EQ(answers[0], answers[2]);
}

}  // namespace
}  // namespace pear::test
