// frequency by group, by band and of other figures than orders, compared with SQL and in edge cases.
#include <algorithm>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "support/asking.hpp"
#include "support/results.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

/// placed: orders (without returns) within their customer's window; counted: customers who are counted.
std::string with_window(std::optional<int> window, bool incomplete) {
  const std::string size = window ? std::to_string(*window) : "100000000";
  const std::string from =
      window ? "first_day" : "0";  // all returns count in an amount, even before an order
  const std::string complete =
      window && !incomplete ? "first_day + " + size + " - 1 <= (SELECT max(day) FROM whole)" : "1";
  return fmt::format(
      "WITH whole AS (SELECT *, CAST(julianday(min(order_date) OVER (PARTITION BY customer_id, order_id)) AS "
      "INTEGER) AS day,"
      " min(is_return) OVER (PARTITION BY customer_id, order_id) AS only_returns FROM lines),"
      "began AS (SELECT customer_id, min(day) AS first_day FROM whole WHERE NOT only_returns GROUP BY "
      "customer_id),"
      "counted AS (SELECT * FROM began WHERE {0}),"
      "inside AS (SELECT * FROM whole JOIN counted USING (customer_id) WHERE day BETWEEN {2} AND first_day + "
      "{1} - 1),"
      "placed AS (SELECT DISTINCT customer_id, order_id, day, region FROM inside WHERE NOT only_returns),",
      complete, size, from);
}

std::optional<int> random_window() {
  return *rc::gen::element<std::optional<int>>(std::nullopt, 1, 2, 30, 90, 365);
}

RC_GTEST_PROP(Frequency, ByGroupAndBandEqualsSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const std::optional<int> window = random_window();
  const bool incomplete = window && pick(0, 1) == 1;
  analysis::OptionValues options = {{"by", "region"}, {"bands", "1,2-3,4+"}};
  if (window) options.emplace_back("within", std::to_string(*window));
  if (incomplete) options.emplace_back("include-incomplete", "true");
  const result::Result result = ask("frequency", options, daybook);
  const Cells counts = sql.ask(
      with_window(window, incomplete) +
      "orders AS (SELECT coalesce(region, '(empty)') AS g, count(*) AS n FROM placed GROUP BY "
      "customer_id) SELECT g, sum(n = 1), sum(n IN (2, 3)), sum(n > 3), count(*) FROM orders GROUP BY g "
      "ORDER BY g = '(empty)', g");
  Cells expected;
  for (const auto& row : counts)
    for (std::size_t band = 1; band <= 3; ++band)
      expected.push_back({row[0], std::vector<std::string>{"1", "2-3", "4+"}[band - 1], row[band],
                          fmt::format("{:.6f}", std::stod(row[band]) / std::stod(row[4]))});
  RC_ASSERT(columns_of(result.tables.front(), {"region", "band", "customers", "share"}) == expected);
  expect_checks_hold(result);
}

RC_GTEST_PROP(Frequency, SummaryEqualsSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const std::optional<int> window = random_window();
  analysis::OptionValues options;
  if (window) options.emplace_back("within", std::to_string(*window));
  const result::Result result = ask("frequency", options, daybook);
  if (result.tables.size() < 2) return;
  const Cells theirs = sql.ask(
      with_window(window, false) +
      "gaps AS (SELECT customer_id, day - lag(day) OVER (PARTITION BY customer_id ORDER BY day, "
      "length(order_id), order_id) AS"
      " days FROM placed),"
      "ranked AS (SELECT days, row_number() OVER (ORDER BY days) AS n, count(*) OVER () AS size FROM gaps "
      "WHERE days IS NOT NULL),"
      "own AS (SELECT customer_id, days, row_number() OVER (PARTITION BY customer_id ORDER BY days) AS n,"
      " count(*) OVER (PARTITION BY customer_id) AS size FROM gaps WHERE days IS NOT NULL),"
      "medians AS (SELECT days, row_number() OVER (ORDER BY days) AS n, count(*) OVER () AS size FROM own "
      "WHERE n = (size + 1) / 2),"
      "numbers AS (SELECT customer_id, count(*) AS n FROM placed GROUP BY customer_id)"
      "SELECT count(*), sum(n > 1), share(sum(n > 1), count(*)), sum(n),"
      " (SELECT days FROM ranked WHERE n = (size + 3) / 4), (SELECT days FROM ranked WHERE n = (size + 1) / "
      "2),"
      " (SELECT days FROM ranked WHERE n = (3 * size + 3) / 4), (SELECT days FROM medians WHERE n = (size + "
      "3) / 4),"
      " (SELECT days FROM medians WHERE n = (size + 1) / 2), (SELECT days FROM medians WHERE n = (3 * size + "
      "3) / 4)"
      " FROM numbers");
  RC_ASSERT(cells_of(table(result, "summary")) == theirs);
}

RC_GTEST_PROP(Frequency, OfOtherFiguresEqualsSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const std::optional<int> window = random_window();
  const auto [count, figure] = *rc::gen::element<std::pair<std::string, std::string>>(
      std::make_pair("days", "count(DISTINCT day) FILTER (WHERE NOT is_return)"),
      std::make_pair("product_id", "count(DISTINCT product_id) FILTER (WHERE NOT is_return)"),
      std::make_pair("category", "count(DISTINCT category) FILTER (WHERE NOT is_return)"),
      std::make_pair("lines", "count(*)"),
      std::make_pair("sum(quantity) as pieces", "sum(quantity_u) / 10000"));
  analysis::OptionValues options = {{"count", count}, {"list", "true"}};
  if (window) options.emplace_back("within", std::to_string(*window));
  const result::Result result = ask("frequency", options, daybook);
  const Cells theirs =
      sql.ask(with_window(window, false) +
              fmt::format("figures AS (SELECT {} AS n FROM inside GROUP BY customer_id) SELECT n, count(*) "
                          "FROM figures GROUP BY n ORDER BY n",
                          figure));
  Cells ours;
  for (const auto& row : cells_of(result.tables.front())) ours.push_back({row[0], row[1]});
  RC_ASSERT(ours == theirs);
  if (result.tables.size() > 2)
    RC_ASSERT(std::to_string(table(result, "list").rows()) ==
              columns_of(table(result, "summary"), {"customers"})[0][0]);
  expect_checks_hold(result);
}

/// The window of C1 ends on the last day of the data, that of C2 a day later.
TEST(Frequency, AWindowThatEndsWithTheDataIsComplete) {
  const Sales sales = {{"A1", "2024-01-01", "C1", "P1", 1, 100},
                       {"A2", "2024-01-02", "C2", "P1", 1, 100},
                       {"A3", "2024-01-30", "C1", "P1", 1, 100}};
  const auto customers = [&](analysis::OptionValues options) {
    options.emplace_back("within", "30");
    options.emplace_back("list", "true");
    const result::Result result = ask("frequency", options, sales);
    return columns_of(table(result, "list"), {"customer_id", "orders"});
  };
  EXPECT_EQ(customers({}), (Cells{{"C1", "2"}}));
  EXPECT_EQ(customers({{"include-incomplete", "true"}}), (Cells{{"C2", "1"}, {"C1", "2"}}));
}

TEST(Frequency, HeadlineIsTrueInEdgeCases) {
  const auto headline = [](const Sales& sales, const analysis::OptionValues& options = {}) {
    return ask("frequency", options, sales).headline;
  };
  using Sentences = std::vector<std::string>;
  const Sale one = {"A1", "2024-01-01", "C1", "P1", 1, 100};
  const Sale other = {"A2", "2024-01-01", "C2", "P1", 1, 100};
  EXPECT_EQ(headline({one}),
            (Sentences{"The only customer has not ordered again.", "Each customer placed one order."}));
  EXPECT_EQ(headline({one, other}),
            (Sentences{"None of 2 customers ordered again.", "Each customer placed one order."}));
  EXPECT_EQ(headline({one, {"A3", "2024-01-05", "C1", "P1", 1, 100}}),
            (Sentences{"The only customer ordered again.", "Each customer placed 2 orders."}));
  EXPECT_EQ(headline({one}, {{"within", "30"}}), (Sentences{"No customer can be counted: all are too new."}));
  EXPECT_EQ(headline({{"A1", "2024-01-01", "C1", "P1", -1, 100}}),
            (Sentences{"No customer placed an order."}));
  EXPECT_EQ(headline({one, other}, {{"by", "first_year"}})[1],
            "Customers of an earlier first year had more time to order: --within 90 compares the first 90 "
            "days of each customer.");
}

/// 20 and 22 of 40 customers ordered again: a difference that needs no headline. 2 and 38 of 40 do.
TEST(Frequency, ComparesRepeatRatesOnlyIfTheyDifferSignificantly) {
  const auto headline = [](int january, int february) {
    Sales sales = {{"Z", "2024-12-31", "C0", "P1", 1, 100}};
    for (int customer = 0; customer < 80; ++customer) {
      const std::string id = fmt::format("C{}", customer), month = customer < 40 ? "01" : "02";
      sales.push_back({"A" + id, "2024-" + month + "-01", id, "P1", 1, 100});
      if (customer % 40 < (customer < 40 ? january : february))
        sales.push_back({"B" + id, "2024-" + month + "-20", id, "P1", 1, 100});
    }
    return ask("frequency", {{"by", "first_month"}, {"within", "30"}}, sales).headline[1];
  };
  EXPECT_EQ(headline(20, 20), "The repeat rate is 50.0% in each first month with at least 20 customers.");
  EXPECT_EQ(headline(0, 0), "The repeat rate is 0.0% in each first month with at least 20 customers.");
  EXPECT_EQ(headline(20, 22),
            "Repeat rates do not differ significantly: first month 2024-01 (50.0% of 40) to "
            "2024-02 (55.0% of 40).");
  EXPECT_EQ(headline(2, 38),
            "Repeat rates: highest in first month 2024-02 (95.0% of 40), lowest in 2024-01 (5.0% of 40).");
}

/// Amounts, and a shop with more numbers of orders than a table should have rows.
TEST(Frequency, FormsBandsWhereThereAreManyValues) {
  Sales sales;
  for (int customer = 1; customer <= 230; ++customer)
    for (int order = 0; order < customer; ++order)
      sales.push_back({fmt::format("A{}", order), fmt::format("2024-01-{:02}", 1 + order % 28),
                       fmt::format("C{}", customer), "P1", 1, 1000});
  const daybook::Daybook daybook = build(sales).daybook;
  const result::Result orders = ask("frequency", {}, daybook);
  EXPECT_EQ(cells_of(orders.tables[0]).front()[0], "1");
  EXPECT_EQ(cells_of(orders.tables[0]).back()[0], "201-500");
  EXPECT_NE(std::find(orders.notes.begin(), orders.notes.end(),
                      "230 different values of \"orders\" are grouped into bands: --bands "
                      "1,2,3,4,5,6-10,11-20,21-50,51-100,101-200,201-500. Give --bands for others."),
            orders.notes.end());
  const result::Result amounts = ask("frequency", {{"count", "sum(amount) as amount"}}, daybook);
  EXPECT_EQ(cells_of(amounts.tables[0]).front()[0], "0-500");
  const analysis::OptionValues same = {{"count", "sum(amount) as amount"},
                                       {"bands", "0-500,500-1000,1000-2000,2000+"}};
  EXPECT_EQ(cells_of(amounts.tables[0]), cells_of(ask("frequency", same, daybook).tables[0]));
}

TEST(Frequency, RejectsWrongOptions) {
  const daybook::Daybook daybook =
      build({{"A1", "2024-01-01", "C1", "P1", 1, 1234}, {"A2", "2024-01-01", "C2", "P1", 1, 5678}}).daybook;
  const auto fault = [&](const analysis::OptionValues& options) {
    const auto result = try_to_ask("frequency", options, daybook);
    return result ? std::string() : result.error().message;
  };
  EXPECT_EQ(fault({{"by", "product_id"}}),
            "--by product_id: a customer can have several values of it, but this question assigns each "
            "customer to one group. Use a column of customers, or select with --where.");
  EXPECT_EQ(fault({{"by", "sum(amount)"}}),
            "--by: \"sum(amount)\" is an aggregate of many lines, but here lines are grouped. Give it OVER "
            "(PARTITION BY ...).");
  EXPECT_EQ(fault({{"count", "max(product_id)"}}), "--count: \"max(product_id)\" is not a number.");
  EXPECT_EQ(fault({{"include-incomplete", "true"}}), "--include-incomplete needs the window of --within.");
}

/// The share of customers who order again, from all orders with such a number, day by day.
std::string slow_share(const std::vector<std::pair<int, int>>& waits, int silent, int horizon) {
  double still = 1;
  std::uint64_t observed = 0;
  for (const auto& [days, event] : waits) observed += days > silent ? 1U : 0U;
  int longest = 0;
  for (const auto& [days, event] : waits) longest = std::max(longest, days);
  for (int day = silent + 1; day <= silent + horizon; ++day) {
    double risk = 0, events = 0;
    for (const auto& [days, event] : waits) {
      risk += days >= day ? 1 : 0;
      events += days == day && event == 1 ? 1 : 0;
    }
    if (risk == 0 && still > 0) return "";
    if (risk > 0) still *= 1 - events / risk;
  }
  return observed < 20 ? "" : fmt::format("{:.6f}", 1 - still);
}

/// Kaplan-Meier by hand, in a shop of a hundred customers: all numbers of orders are in one band, because
/// there are fewer than 100 second ones in most shops.
RC_GTEST_PROP(Quiet, SharesAreThoseOfCustomersSilentForAsLong, ()) {
  constexpr int kLastDay = 200;
  Sales sales;
  std::vector<std::pair<int, int>> waits;  // days, and whether an order followed
  std::vector<int> last_days;
  for (int customer = 0; customer < 60; ++customer) {
    int day = pick(0, 80), order = 0;
    while (true) {
      sales.push_back({fmt::format("A{}", order++), to_text(Date{date_of(2024, 1, 1).days + day}),
                       fmt::format("C{:03}", customer), "P1", 1, 100});
      const int gap = pick(1, 90);
      if (pick(0, 2) == 0 || day + gap > kLastDay) break;
      waits.emplace_back(gap, 1);
      day += gap;
    }
    last_days.push_back(day);
  }
  sales.push_back({"B", to_text(Date{date_of(2024, 1, 1).days + kLastDay}), "D", "P1", 1, 100});
  last_days.push_back(kLastDay);
  for (const int day : last_days) waits.emplace_back(kLastDay - day, 0);
  RC_PRE(waits.size() - last_days.size() < 100);  // one band
  const int horizon = pick(1, 60);
  const result::Result result =
      ask("frequency", {{"list", "true"}, {"horizon", std::to_string(horizon)}}, sales);
  const Cells rows = columns_of(table(result, "list"), {"customer_id", "silent_days", "orders_again",
                                                        "observed", "at_stake", "is_quiet"});
  RC_ASSERT(rows.size() == last_days.size());
  for (const auto& row : rows) {
    const int customer = row[0] == "D" ? 60 : std::stoi(row[0].substr(1));
    const int silent = kLastDay - last_days[static_cast<std::size_t>(customer)];
    RC_ASSERT(row[1] == std::to_string(silent));
    const std::string expected = slow_share(waits, silent, horizon);
    RC_ASSERT(row[2].empty() == expected.empty());
    if (!expected.empty()) RC_ASSERT(std::abs(std::stod(row[2]) - std::stod(expected)) < 2e-6);
  }
  for (std::size_t i = 1; i < rows.size(); ++i) RC_ASSERT(std::stod(rows[i][4]) <= std::stod(rows[i - 1][4]));
}

}  // namespace
}  // namespace pear::test
