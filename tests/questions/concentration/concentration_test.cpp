// The distribution of a figure over members, compared with definitions and SQL.
#include <algorithm>
#include <cmath>
#include <tuple>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "questions/concentration/ranking.hpp"
#include "result/cell_text.hpp"
#include "support/asking.hpp"
#include "support/results.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

RC_GTEST_PROP(Ranking, EqualsTheDefinitions, ()) {
  std::vector<concentration::Ranked> members;
  std::vector<double> figures;
  double all = 0;
  for (int i = pick(1, 30); i > 0; --i) {
    members.push_back(
        {static_cast<std::uint32_t>(members.size()), std::int64_t{pick(-3, 40)} * Decimal::kScale});
    figures.push_back(std::max(0.0, static_cast<double>(members.back().units) / Decimal::kScale));
    all += figures.back();
  }
  const concentration::Ranking ranking(members);
  const auto n = static_cast<double>(figures.size());
  std::sort(figures.rbegin(), figures.rend());
  double differences = 0;
  for (const double a : figures)
    for (const double b : figures) differences += std::abs(a - b);
  if (all > 0) RC_ASSERT(std::abs(ranking.gini() - differences / (2 * n * all)) < 1e-12);
  RC_ASSERT(ranking.has_total() == (all > 0));
  const int part = pick(0, 100);
  double largest = 0;
  for (std::size_t i = 0; i < figures.size() && 100 * static_cast<double>(i) < part * n - 1e-9; ++i)
    largest += figures[i];
  if (all > 0) RC_ASSERT(std::abs(ranking.share_of_largest(part / 100.0) - largest / all) < 1e-12);
  double so_far = 0;
  std::size_t needed = 0;
  while (needed < figures.size() && so_far * 100 < part * all) so_far += figures[needed++];
  if (all > 0) RC_ASSERT(ranking.members_for(std::int64_t{part} * Decimal::kScale) == needed);
}

RC_GTEST_PROP(Concentration, EqualsSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const auto [of, show, figure] = *rc::gen::element<std::tuple<std::string, std::string, std::string>>(
      std::make_tuple("customer_id", "sum(amount)", "sum(amount_u)"),
      std::make_tuple("product_id", "sum(amount)", "sum(amount_u)"),
      std::make_tuple("category", "count(*)", "count(*) * 10000"),
      std::make_tuple("customer_id", "sum(quantity)", "sum(quantity_u)"));
  const bool split = pick(0, 1) == 1;
  analysis::OptionValues options = {{"per", of}, {"count", show + " as figure"}};
  if (split) options.emplace_back("by", "region");
  const result::Result result = ask("concentration", options, daybook);
  const std::string by = split ? "coalesce(region, '(empty)')" : "'all'";
  const Cells theirs = sql.ask(fmt::format(
      "WITH figures AS (SELECT {0} AS g, coalesce({1}, '(empty)') AS m, {2} AS f FROM lines GROUP BY g, m),"
      "ranked AS (SELECT *, row_number() OVER (PARTITION BY g ORDER BY f DESC, m = '(empty)', length(m), m) "
      "AS n,"
      " sum(max(f, 0)) OVER (PARTITION BY g) AS whole, count(*) OVER (PARTITION BY g) AS size FROM figures)"
      "SELECT g, n, m, f, CASE WHEN whole > 0 THEN share(max(f, 0), whole) END,"
      " CASE WHEN whole > 0 THEN share(sum(max(f, 0)) OVER (PARTITION BY g ORDER BY n), whole) END,"
      " share(n, size)"
      " FROM ranked ORDER BY g = '(empty)', g, n",
      by, of, figure));
  std::string many = of == "category" ? "categories" : of == "product_id" ? "products" : "customers";
  Cells ours = columns_of(result.tables.front(),
                          {"rank", of, "figure", "share", "cumulative_share", "cumulative_share_of_" + many});
  RC_ASSERT(ours.size() == theirs.size());
  for (std::size_t row = 0; row < ours.size(); ++row) {
    const std::int64_t units = Decimal::parse(ours[row][2])->units();
    ours[row][2] = std::to_string(units);
    ours[row].insert(ours[row].begin(),
                     split ? result::cell_text(result.tables.front().columns[0], row) : "all");
  }
  RC_ASSERT(ours == theirs);
  expect_checks_hold(result);
}

TEST(Concentration, ClassesEndWithTheMemberThatReachesTheShare) {
  Sales sales;
  const auto buy = [&](const std::string& customer, std::int64_t cents) {
    sales.push_back({"A" + customer, "2024-01-01", customer, "P1", 1, cents});
  };
  buy("C1", 7000), buy("C2", 1000), buy("C3", 1500), buy("C4", 500);
  const result::Result result = ask("concentration", {}, sales);
  EXPECT_EQ(columns_of(result.tables.front(), {"customer_id", "amount", "cumulative_share", "class"}),
            (Cells{{"C1", "70.00", "0.700000", "A"},
                   {"C3", "15.00", "0.850000", "A"},
                   {"C2", "10.00", "0.950000", "B"},
                   {"C4", "5.00", "1.000000", "C"}}));
  EXPECT_EQ(result.headline,
            (std::vector<std::string>{
                "20% of customers account for 70.0% of amount; 80% of amount come from 50.0% of customers (2 "
                "of 4).",
                "Gini coefficient 0.50 (0: all have the same; near 1: one has everything)."}));
}

TEST(Concentration, ReportsNegativeTotalsAndCountsThemAsZero) {
  const result::Result result = ask("concentration", {},
                                    {{"A1", "2024-01-01", "C1", "P1", 2, 1000},
                                     {"A2", "2024-01-01", "C2", "P1", -1, 1000},
                                     {"A3", "2024-01-01", "C3", "P1", 1, 1000}});
  EXPECT_EQ(
      columns_of(result.tables.front(), {"customer_id", "share", "cumulative_share"}),
      (Cells{
          {"C1", "0.666667", "0.666667"}, {"C3", "0.333333", "1.000000"}, {"C2", "0.000000", "1.000000"}}));
  EXPECT_EQ(result.notes,
            (std::vector<std::string>{"1 customer is at or below 0, with amount -10.00 in total: last in "
                                      "rank, and 0 in all shares, classes and the Gini coefficient."}));
}

/// Of a region in which nothing is above 0, no shares, classes or numbers of members are known.
TEST(Concentration, LeavesSharesEmptyWhereNothingIsAboveZero) {
  const result::Result result = ask("concentration", {{"by", "product_id"}},
                                    {{"A1", "2024-01-01", "C1", "P1", 1, 1000},
                                     {"A2", "2024-01-01", "C2", "P2", 1, 0},
                                     {"A3", "2024-01-01", "C3", "P2", -1, 1000}});
  EXPECT_EQ(columns_of(result.tables.front(), {"customer_id", "share", "cumulative_share", "class"}),
            (Cells{{"C1", "1.000000", "1.000000", "A"}, {"C2", "", "", ""}, {"C3", "", "", ""}}));
  EXPECT_EQ(columns_of(table(result, "summary"), {"largest_20_share", "for_80", "for_80_share", "gini"}),
            (Cells{{"1.000000", "1", "1.000000", "0"}, {"", "", "", ""}}));
  EXPECT_EQ(result.checks[0].statement,
            "cumulative shares end at 100% in every ranking with figures above 0");
}

/// A change of one member's figure is no news; ten times as much for a fifth of the members is.
TEST(Concentration, ReportsOnlySignificantChanges) {
  const auto headline = [](int times) {
    Sales sales;
    for (int customer = 0; customer < 200; ++customer) {
      const std::string id = fmt::format("C{}", customer);
      const int usual = 1'000 + 100 * (customer * 37 % 50);
      sales.push_back({"A" + id, "2023-05-01", id, "P1", 1, usual});
      sales.push_back({"B" + id, "2024-05-01", id, "P1", 1, customer % 5 == 0 ? usual * times : usual + 40});
    }
    return ask("concentration", {{"compare", "year"}}, sales).headline.back();
  };
  EXPECT_TRUE(headline(1).starts_with("Concentration did not change significantly: ")) << headline(1);
  EXPECT_TRUE(headline(10).starts_with("Concentration rose: ")) << headline(10);
}

TEST(Concentration, HeadlineIsTrueInEdgeCases) {
  const auto headline = [](const Sales& sales) { return ask("concentration", {}, sales).headline.front(); };
  EXPECT_EQ(headline({{"A1", "2024-01-01", "C1", "P1", 1, 1000}}),
            "There is only 1 customer, with all of the amount.");
  EXPECT_EQ(headline({{"A1", "2024-01-01", "C1", "P1", 1, 1000}, {"A2", "2024-01-01", "C2", "P1", 1, 1000}}),
            "All 2 customers have the same amount.");
  EXPECT_EQ(headline({{"A1", "2024-01-01", "C1", "P1", -1, 1000}}), "No customer has amount above 0.");
}

}  // namespace
}  // namespace pear::test
