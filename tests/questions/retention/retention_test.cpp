// retention: against SQL, and on small shops.
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "daybook/columns/derived_columns.hpp"
#include "questions/retention/periods.hpp"
#include "result/cell_text.hpp"
#include "support/asking.hpp"
#include "support/results.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

/// Periods of N days by month of the first order: every figure of the cells, and which cells are finished.
RC_GTEST_PROP(Retention, EqualsSql, ()) {
  const daybook::Daybook daybook = build(random_sales()).daybook;
  const int days = pick(1, 40);
  const auto asked = try_to_ask("retention", {{"period", fmt::format("{} days", days)}}, daybook);
  if (!asked) RC_FAIL(asked.error().message);
  const LinesInSql sql(daybook::completed(
      daybook, daybook::known_columns({"order_date", "is_return", "product_id", "amount"})));
  const Cells theirs = sql.ask(fmt::format(
      "WITH whole AS (SELECT max(order_date) AS last FROM lines),"
      " customers AS (SELECT customer_id AS customer, min(order_date) FILTER (WHERE NOT is_return) AS first,"
      "   substr(min(order_date) FILTER (WHERE NOT is_return), 1, 7) AS cohort FROM lines GROUP BY "
      "customer_id),"
      " lengths AS (SELECT *, CAST((julianday(last) + 1 - julianday(first)) / {0} AS INTEGER) AS complete"
      "   FROM customers, whole WHERE first IS NOT NULL),"
      " finished AS (SELECT cohort, min(complete) AS periods FROM lengths GROUP BY cohort),"
      " orders AS (SELECT customer_id AS customer, order_id, min(rowid) AS place, min(order_date) AS day,"
      "   max(NOT is_return) AS counts, sum(amount_u) AS amount FROM lines GROUP BY customer_id, order_id),"
      " numbered AS (SELECT *, sum(counts) OVER (PARTITION BY customer ORDER BY place) AS number FROM "
      "orders),"
      " placed AS (SELECT customer, counts, number, amount, CAST((julianday(day) - julianday(first)) / {0} "
      "AS INTEGER)"
      "   AS period FROM numbered JOIN lengths USING (customer) WHERE day >= first),"
      " numbers(n) AS (SELECT 0 UNION ALL SELECT n + 1 FROM numbers WHERE n < 400),"
      " cells AS (SELECT cohort, n AS period, customer FROM lengths JOIN finished USING (cohort) JOIN numbers"
      "   ON n < periods)"
      " SELECT cells.cohort, cells.period, count(*),"
      " sum(EXISTS (SELECT 1 FROM placed p WHERE p.customer = cells.customer AND p.period = cells.period AND "
      "counts)),"
      " sum(EXISTS (SELECT 1 FROM placed p WHERE p.customer = cells.customer AND p.period <= cells.period "
      "AND counts"
      "   AND number = 2)),"
      " sum((SELECT count(*) FROM placed p WHERE p.customer = cells.customer AND p.period = cells.period AND "
      "counts)),"
      " coalesce(sum((SELECT sum(amount) FROM placed p WHERE p.customer = cells.customer AND p.period ="
      "   cells.period)), 0)"
      " FROM cells GROUP BY cells.cohort, cells.period ORDER BY 1, 2",
      days));
  const result::Table& table = asked->tables[2];
  Cells ours;
  for (std::size_t row = 0; row < table.rows(); ++row) {
    if (result::cell_text(table.column("cohort"), row) == "All") continue;
    std::vector<std::string> cells;
    for (const char* name : {"cohort", "period", "customers", "ordered", "ordered_again", "orders"})
      cells.push_back(result::cell_text(table.column(name), row));
    cells.push_back(std::to_string(table.column("amount").integer(row)));
    ours.push_back(cells);
  }
  for (std::size_t row = 0; row < std::max(ours.size(), theirs.size()); ++row) {
    const auto line = [&](const Cells& cells) {
      return row < cells.size() ? fmt::format("{}", fmt::join(cells[row], " | ")) : std::string("nothing");
    };
    if (line(ours) != line(theirs)) RC_FAIL(fmt::format("{}, and in SQL {}", line(ours), line(theirs)));
  }
}

TEST(Retention, PeriodsBeginOnTheFirstDayOrWithTheCalendar) {
  const auto day = [](const char* text) { return parse_iso_moment(text)->date; };
  const auto of = [&](retention::PeriodKind kind, bool by_calendar, const char* first, const char* then) {
    return retention::Period{kind, 30, by_calendar}.of(day(first), day(then));
  };
  using retention::PeriodKind;
  EXPECT_EQ(of(PeriodKind::month, false, "2024-01-15", "2024-02-14"), 0);
  EXPECT_EQ(of(PeriodKind::month, false, "2024-01-15", "2024-02-15"), 1);
  EXPECT_EQ(of(PeriodKind::month, false, "2024-01-31", "2024-02-29"), 0);
  EXPECT_EQ(of(PeriodKind::month, true, "2024-01-31", "2024-02-01"), 1);
  EXPECT_EQ(of(PeriodKind::quarter, false, "2024-01-15", "2024-04-15"), 1);
  EXPECT_EQ(of(PeriodKind::quarter, true, "2024-03-31", "2024-04-01"), 1);
  EXPECT_EQ(of(PeriodKind::week, false, "2024-01-03", "2024-01-09"), 0);
  EXPECT_EQ(of(PeriodKind::week, true, "2024-01-07", "2024-01-08"), 1);  // a Sunday and a Monday
  EXPECT_EQ(of(PeriodKind::days, false, "2024-01-01", "2024-01-31"), 1);
}

/// A cell is empty until the period is over for the whole cohort; the last row has only finished cells.
TEST(Retention, LeavesUnfinishedCellsEmpty) {
  const daybook::Daybook daybook = build({{"A1", "2024-01-10", "C1", "P1", 1, 1000},
                                          {"A2", "2024-02-12", "C1", "P1", 1, 500},
                                          {"A3", "2024-01-20", "C2", "P1", 1, 2000},
                                          {"A4", "2024-02-28", "C3", "P1", 1, 100},
                                          {"A5", "2024-03-25", "C3", "P1", -1, 100}})
                                       .daybook;
  const result::Result result = ask("retention", {}, daybook);
  EXPECT_EQ(cells_of(result.tables[0]), (Cells{{"2024-01", "2", "1.000000", "0.500000"},
                                               {"2024-02", "1", "", ""},
                                               {"All", "3", "1.000000", "0.500000"}}));
  EXPECT_EQ(
      cells_of(result.tables[1]),
      (Cells{{"2024-01", "2", "15.00", "17.50"}, {"2024-02", "1", "", ""}, {"All", "3", "15.00", "17.50"}}));
  EXPECT_EQ(result.headline.front(), "0.0% of the customers ordered again within 1 month.");
}

/// By a column, each period counts the customers for whom it is over.
TEST(Retention, CohortsByColumnCountCustomersWhoHaveHadTheTime) {
  const daybook::Daybook daybook = build({{"A1", "2024-01-10", "C1", "P1", 1, 1000},
                                          {"A2", "2024-01-15", "C1", "P1", 1, 500},
                                          {"A3", "2024-02-20", "C2", "P1", 1, 2000}})
                                       .daybook;
  const result::Result result = ask("retention", {{"cohort", "first_year"}, {"period", "10 days"}}, daybook);
  const auto cells = cells_of(result.tables[2]);
  ASSERT_FALSE(cells.empty());
  EXPECT_EQ(std::vector<std::string>(cells[0].begin(), cells[0].begin() + 6),
            (std::vector<std::string>{"2024", "0", "1", "1", "1.000000", "1"}));
  const auto fault = [&](const analysis::OptionValues& options) {
    const auto asked = try_to_ask("retention", options, daybook);
    return asked ? std::string() : asked.error().message;
  };
  EXPECT_EQ(
      fault({{"period", "soon"}}),
      "--period takes a length of time from 1 to 3,660 days, such as 90, \"90 days\" or \"3 months\", not "
      "\"soon\". Or use week, month or quarter.");
  EXPECT_EQ(fault({{"period", "30"}, {"calendar", "true"}}),
            "--calendar needs --period week, month or quarter: a number of days has no calendar.");
}

/// Newer cohorts do better only where the difference is more than noise; those at the beginning of the data,
/// which have customers from before, are not compared.
TEST(Retention, ComparesNewerAndOlderCohorts) {
  const auto headline = [](int at_first, int older, int newer) {
    Sales sales;
    for (int month = 1; month <= 12; ++month)
      for (int customer = 0; customer < 40; ++customer) {
        const std::string id = fmt::format("C{}-{}", month, customer);
        sales.push_back({"A" + id, fmt::format("2024-{:02}-05", month), id, "P1", 1, 1000});
        if (customer < (month <= 3 ? at_first : month <= 6 ? older : newer))
          sales.push_back({"B" + id, fmt::format("2024-{:02}-20", month), id, "P1", 1, 1000});
      }
    sales.push_back({"Z", "2024-12-31", "C1-0", "P1", 1, 1000});
    return ask("retention", {}, build(sales).daybook).headline.at(1);
  };
  EXPECT_TRUE(
      headline(40, 5, 30).starts_with("Newer cohorts do better than older ones: 75.0% of those who began in "
                                      "2024-07 to 2024-09 ordered again within 3 months, and 12.5%"))
      << headline(40, 5, 30);
  EXPECT_TRUE(
      headline(5, 30, 5).starts_with("Newer cohorts do worse than older ones: 12.5% of those who began in"));
  EXPECT_TRUE(headline(40, 20, 20).starts_with("Newer and older cohorts do not differ significantly"));
}

}  // namespace
}  // namespace pear::test
