// The other tables of first: months, entry products and first purchases, compared with SQL and in edge cases.
#include <cmath>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "support/asking.hpp"
#include "support/results.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

/// placed: orders that are one, in order of each customer's history; began: their first ones.
std::string with_orders(int follow, int run_in = 0) {
  return fmt::format(
      "WITH whole AS (SELECT customer_id, order_id, region, min(order_date) AS d, min(is_return) AS r, "
      "sum(amount_u) AS a,"
      " CAST(julianday(min(order_date)) AS INTEGER) AS day FROM lines GROUP BY customer_id, order_id),"
      "placed AS (SELECT *, row_number() OVER (PARTITION BY customer_id ORDER BY d, length(order_id), "
      "order_id) AS n"
      " FROM whole WHERE r = 0),"
      "began AS (SELECT *, day + {0} - 1 <= (SELECT max(day) FROM whole) AS followed FROM placed"
      " WHERE n = 1 AND day >= {1} + (SELECT min(day) FROM whole)),"
      "later AS (SELECT b.customer_id, count(p.n) AS orders, min(p.day) - b.day AS days FROM began b LEFT "
      "JOIN placed p"
      " ON p.customer_id = b.customer_id AND p.n > 1 AND p.day < b.day + {0} GROUP BY b.customer_id)",
      follow, run_in);
}

RC_GTEST_PROP(First, MonthsByGroupEqualSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const int run_in = pick(0, 40);
  const result::Result result = ask("first", {{"by", "region"}, {"run-in", std::to_string(run_in)}}, daybook);
  if (result.tables.size() == 1) return;
  Cells ours;
  for (const auto& row : cells_of(table(result, "months")))
    if (row[2] != "0") ours.push_back({row[0], row[1], row[2], row[4]});
  const Cells theirs = sql.ask(
      with_orders(180, run_in) +
      "SELECT coalesce(region, '(empty)') AS g, substr(d, 1, 7) AS m, count(*), printf('%.2f', sum(a) / "
      "10000.0) FROM began GROUP BY g, m ORDER BY g = '(empty)', g, m");
  RC_ASSERT(ours == theirs);
  expect_checks_hold(result);
}

RC_GTEST_PROP(First, EntryProductsEqualSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const int follow = pick(2, 200);
  const bool of_categories = pick(0, 1) == 1;
  const int run_in = pick(0, 40);
  analysis::OptionValues options = {{"follow", std::to_string(follow)}, {"run-in", std::to_string(run_in)}};
  if (of_categories) options.emplace_back("per", "category");
  const result::Result result = ask("first", options, daybook);
  if (result.tables.size() == 1) return;
  Cells ours = columns_of(table(result, "entry"), {of_categories ? "category" : "product_id", "new_customers",
                                                   "followed", "ordered_again", "later_orders"});
  const Cells theirs = sql.ask(
      with_orders(follow, run_in) +
      fmt::format(
          "SELECT x, count(*), sum(followed), sum(followed AND orders > 0), CASE WHEN sum(followed) > 0 THEN"
          " round(1.0 * sum(orders) FILTER (WHERE followed) / sum(followed), 4) ELSE '' END"
          " FROM (SELECT DISTINCT began.customer_id, coalesce({0}, '(empty)') AS x, followed, orders FROM "
          "began"
          " JOIN lines USING (customer_id, order_id) JOIN later USING (customer_id) WHERE NOT is_return)"
          " GROUP BY x",
          of_categories ? "category" : "product_id"));
  for (auto* rows : {&ours, const_cast<Cells*>(&theirs)}) {
    for (auto& row : *rows)
      if (!row[4].empty()) row[4] = fmt::format("{:.4f}", std::stod(row[4]));
    std::sort(rows->begin(), rows->end());
  }
  RC_ASSERT(ours == theirs);
}

RC_GTEST_PROP(First, PurchaseOfEachProductEqualsSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const result::Result result =
      ask("first", {{"per", "product"}, {"with", "region"}, {"run-in", "0"}}, daybook);
  if (result.tables.front().rows() == 0) return;
  Cells ours = columns_of(table(result, "product"), {"customer_id", "region", "product_id", "first_date",
                                                     "first_order_id", "quantity", "amount"});
  Cells theirs = sql.ask(
      "WITH whole AS (SELECT *, min(order_date) OVER (PARTITION BY customer_id, order_id) AS d FROM lines),"
      "bought AS (SELECT *, rank() OVER (PARTITION BY customer_id, product_id ORDER BY d, length(order_id), "
      "order_id) AS n"
      " FROM whole WHERE NOT is_return)"
      "SELECT customer_id, coalesce(region, ''), product_id, min(d), order_id, sum(quantity_u) / 10000,"
      " printf('%.2f', sum(amount_u) / 10000.0) FROM bought WHERE n = 1 GROUP BY customer_id, product_id");
  std::sort(ours.begin(), ours.end());
  std::sort(theirs.begin(), theirs.end());
  RC_ASSERT(ours == theirs);
}

/// Day 10 is included, day 11 is not; days that end with the data are complete.
TEST(First, FollowsCustomersExactlyToTheLastDay) {
  const Sales sales = {{"A1", "2024-01-01", "C1", "P1", 1, 100}, {"A2", "2024-01-10", "C1", "P2", 1, 300},
                       {"A3", "2024-01-02", "C2", "P1", 1, 100}, {"A4", "2024-01-12", "C2", "P1", 1, 100},
                       {"A5", "2024-01-03", "C3", "P1", 1, 100}, {"A6", "2024-01-04", "C4", "P1", 1, 100}};
  const result::Result result =
      ask("first", {{"follow", "10"}, {"run-in", "0"}}, sales);  // the data ends on 2024-01-12
  EXPECT_EQ(columns_of(table(result, "entry"),
                       {"product_id", "new_customers", "followed", "ordered_again", "repeat_rate",
                        "days_to_second_median", "later_orders", "later_amount"}),
            (Cells{{"P1", "4", "3", "1", "0.333333", "9", "0.3333", "1.00"}}));
  EXPECT_EQ(result.notes.back(),
            "1 customer is left out of the repeat rates by entry product, because their first 10 days end "
            "after the last day of data, 2024-01-12.");
}

TEST(First, HeadlineIsTrueInEdgeCases) {
  const auto headline = [](const Sales& sales) { return ask("first", {}, sales).headline.front(); };
  EXPECT_EQ(headline({{"A1", "2024-01-01", "C1", "P1", 1, 100}}),
            "1 new customer, who has not ordered again.");
  EXPECT_EQ(headline({{"A1", "2024-01-01", "C1", "P1", 1, 100}, {"A2", "2024-01-01", "C1", "P1", 1, 100}}),
            "1 new customer, who ordered again on the same day.");
  EXPECT_EQ(headline({{"A1", "2024-01-01", "C1", "P1", 1, 100}, {"A2", "2024-01-01", "C2", "P1", 1, 100}}),
            "2 new customers; none of them ordered again.");
  EXPECT_EQ(ask("first", {{"run-in", "5"}}, {{"A1", "2024-01-01", "C1", "P1", 1, 100}}).headline.front(),
            "Nobody placed a first order after the run-in of 5 days.");
}

/// C1 to C9 order every 10 days from the start, C10 for the first time on day 21 and again on day 41. The
/// data ends on day 90.
TEST(First, CustomersOfTheRunInAreNotNew) {
  Sales sales;
  const auto order = [&](int customer, int day) {
    sales.push_back({fmt::format("A{}-{}", customer, day), to_text(Date{19'723 + day - 1}),
                     fmt::format("C{}", customer), "P1", 1, 100});
  };
  for (int customer = 1; customer <= 9; ++customer)
    for (int day = customer; day <= 90; day += 10) order(customer, day);
  order(10, 21), order(10, 41), order(9, 90);
  const result::Result result = ask("first", {}, sales);
  EXPECT_EQ(result.headline[0], "1 new customer, who ordered again within 20 days.");
  EXPECT_EQ(
      result.notes[0],
      "9 customers are not called new: the data begins on 2024-01-01, and their first order is within the "
      "run-in of 10 days (9 of 10 orders follow the previous one within these days). --run-in changes it.");
  EXPECT_EQ(columns_of(table(result, "months"), {"month", "new_customers"}), (Cells{{"2024-01", "1"}}));
  Cells is_new;
  for (const auto& row : columns_of(table(result, ""), {"customer_id", "is_new"}))
    if (row[1] == "yes") is_new.push_back(row);
  EXPECT_EQ(is_new, (Cells{{"C10", "yes"}}));
  EXPECT_EQ(ask("first", {{"run-in", "0"}}, sales).headline[0],
            "10 new customers; 10 of them (100.0%) ordered again, half of these within 10 days.");
}

/// Of 24 products with equal repeat rates, one is always the highest: that is no news.
TEST(First, NamesNoEntryProductByChance) {
  Sales sales;
  for (int customer = 0; customer < 24 * 25; ++customer) {
    const std::string id = fmt::format("C{}", customer);
    sales.push_back({"A" + id, "2024-01-01", id, fmt::format("P{}", customer % 24), 1, 100});
    if (customer * 7'919 % 600 < 300) sales.push_back({"B" + id, "2024-02-01", id, "P99", 1, 100});
  }
  sales.push_back({"Z", "2024-12-31", "C0", "P99", 1, 100});
  const result::Result result = ask("first", {{"run-in", "0"}}, sales);
  EXPECT_EQ(result.headline.back(),
            "Within 180 days, 50.0% of new customers ordered again; no entry product "
            "differs significantly.");
  for (const auto& row : columns_of(table(result, "entry"), {"q_value"})) EXPECT_GT(std::stod(row[0]), 0.05);
}

/// 30 of 30 customers who began with P1 ordered again, 0 of 30 with P2; and 3 of 3 with P3, which are too
/// few.
TEST(First, HeadlineNamesSignificantEntryProductsWithEnoughCustomers) {
  Sales sales;
  const auto begin = [&](int customer, const std::string& product, bool again) {
    sales.push_back(
        {fmt::format("A{}", customer), "2023-01-01", fmt::format("C{}", customer), product, 1, 100});
    if (again)
      sales.push_back(
          {fmt::format("B{}", customer), "2023-02-01", fmt::format("C{}", customer), "P9", 1, 100});
  };
  for (int i = 0; i < 30; ++i) begin(i, "P1", true);
  for (int i = 30; i < 60; ++i) begin(i, "P2", false);
  for (int i = 60; i < 63; ++i) begin(i, "P3", true);
  sales.push_back({"A99", "2023-12-31", "C0", "P1", 1, 100});
  const result::Result result = ask("first", {{"run-in", "0"}}, sales);
  EXPECT_EQ(result.headline.back(),
            "Within 180 days, 52.4% of new customers ordered again. Significantly more after entry product "
            "P1: 100.0% of 30 customers. Significantly fewer after P2: 0.0% of 30 customers.");
  EXPECT_EQ(result.figures.at(1).marks.rows(), 2U);
  EXPECT_EQ(table(result, "entry").rows(), 3U);
}

}  // namespace
}  // namespace pear::test
