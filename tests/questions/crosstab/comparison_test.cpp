// Cells against their totals and against the period before, compared with SQL.
#include <cmath>
#include <map>
#include <string>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "daybook/columns/derived_columns.hpp"
#include "questions/crosstab/cells_by_place.hpp"
#include "support/asking.hpp"
#include "support/results.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

/// A mean of each product divided by that of its category, of its region, and of all: none is computed from
/// other means, or from a rounded one.
RC_GTEST_PROP(CrosstabAgainst, EqualsSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const result::Result result = ask("crosstab",
                                    {{"down", "category,product_id"},
                                     {"across", "region"},
                                     {"count", "avg(amount) as mean"},
                                     {"against", "parent,category,product_id,column,row,all"}},
                                    daybook);
  const auto mean = [](const std::string& of) {
    return fmt::format("(SELECT sum(amount_u) * 1.0 / (10000 * count(*)) FROM lines AS o{})", of);
  };
  const std::string category = " WHERE o.category IS lines.category", region = "o.region IS lines.region";
  const auto by = [&](const std::string& whole) {
    return fmt::format("CASE WHEN {0} <> 0 THEN share(mean, {0}) ELSE '' END", whole);
  };
  const Cells theirs = sql.ask(fmt::format(
      "SELECT coalesce(category, '(empty)'), product_id, coalesce(region, '(empty)'), {}, {}, {}, {}, {}, {} "
      "FROM"
      " (SELECT *, sum(amount_u) * 1.0 / (10000 * count(*)) AS mean FROM lines GROUP BY category, "
      "product_id, region)"
      " AS lines ORDER BY category IS NULL, category, length(product_id), product_id, region IS NULL, region",
      by(mean(category + " AND " + region)), by(mean(category + " AND " + region)), by("mean"),
      by(mean(" WHERE " + region)), by(mean(" WHERE o.product_id = lines.product_id")), by(mean(""))));
  RC_ASSERT(columns_of(table(result, "long"),
                       {"category", "product_id", "region", "mean against parent", "mean against category",
                        "mean against product_id", "mean against column", "mean against row",
                        "mean against all"}) == theirs);
}

TEST(CrosstabAgainst, ReportsMistakes) {
  const auto run = try_to_ask("crosstab", {{"down", "product_id"}, {"against", "parents"}},
                              build({{"A1", "2024-01-01", "C1", "P1", 2, 150}}).daybook);
  EXPECT_EQ(run.error().message,
            "--against takes row, column, parent, all, previous, product_id, not \"parents\". Did you mean "
            "\"parent\"?");
}

/// Each year of each region against the year before; the last one against the same days of it.
RC_GTEST_PROP(CrosstabPrevious, GrowthEqualsSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook::completed(daybook, {"year"}));
  const result::Result result =
      ask("crosstab", {{"down", "region"}, {"across", "year"}, {"count", "lines"}, {"against", "previous"}},
          daybook);
  const std::string end = sql.ask("SELECT max(order_date) FROM lines").front().front();
  std::map<std::string, std::string> shown = cells_by_place(result.tables[0], 1);
  const Cells rows = sql.ask(fmt::format(
      "WITH cells AS (SELECT coalesce(region, '(empty)') AS region, CAST(year AS INTEGER) AS year, count(*) "
      "AS n,"
      " count(*) FILTER (WHERE substr(order_date, 6) <= substr('{0}', 6)) AS same FROM lines GROUP BY 1, 2)"
      " SELECT now.region, now.year, now.n * 1.0 / CASE WHEN now.year || '-12-31' > '{0}' THEN before.same "
      "ELSE "
      "before.n END - 1 FROM cells AS now JOIN cells AS before ON before.region = now.region AND before.year "
      "= "
      "now.year - 1 WHERE CASE WHEN now.year || '-12-31' > '{0}' THEN before.same ELSE before.n END > 0",
      end));
  for (const auto& row : rows) {
    const std::string place = fmt::format("{} | {} lines growth", row[0], row[1]);
    RC_LOG(place);
    RC_ASSERT(shown.contains(place));
    RC_ASSERT(std::abs(std::stod(shown[place]) - std::stod(row[2])) < 1e-6);
  }
}

TEST(CrosstabPrevious, ComparesAnUnfinishedPeriodWithTheSameDays) {
  const Sales sales = {{"A1", "2023-03-01", "C1", "P1", 1, 10'000},
                       {"A2", "2023-11-20", "C1", "P1", 1, 50'000},
                       {"A3", "2024-05-01", "C1", "P1", 1, 15'000},
                       {"A4", "2024-06-30", "C1", "P2", 1, 5'000}};
  const result::Result result =
      ask("crosstab", {{"across", "year"}, {"against", "previous"}, {"share", "row"}}, sales);
  EXPECT_EQ(result.headline.front(), "sales in 2024: 100.0% higher than in the same days of 2023.");
  EXPECT_EQ(result.notes.front(),
            "2024 is not over at the end of the data, 2024-06-30: it is compared with the year before up to "
            "2023-06-30.");
  EXPECT_EQ(result.notes.at(1),
            "The data begins on 2023-03-01, within 2023: growth from it may be too high.");
  const auto fault =
      try_to_ask("crosstab", {{"down", "product_id"}, {"against", "previous"}}, build(sales).daybook);
  EXPECT_EQ(
      fault.error().message,
      "--against previous needs year, quarter, month or week in --across or --down, to compare one with "
      "the one before.");
}

}  // namespace
}  // namespace pear::test
