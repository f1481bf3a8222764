// first and frequency compared with slow, obvious twins and with SQL, on many random shops.
#include <algorithm>
#include <map>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <tbb/global_control.h>

#include "base/natural_order.hpp"
#include "result/cell_text.hpp"
#include "support/asking.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

using NaturalKey = std::pair<std::string, std::string>;

/// One customer's orders, grouped as a person would with pen and paper.
struct OrderCard {
  std::string date;
  std::string id;
  std::vector<Sale> lines;
  [[nodiscard]] bool counts() const { return !std::all_of(lines.begin(), lines.end(), is_return); }
};

std::map<std::string, std::vector<OrderCard>, NaturalLess> cards_by_customer(const Sales& sales) {
  std::map<std::string, std::map<std::string, OrderCard>, NaturalLess> cards;
  for (const Sale& sale : sales) {
    OrderCard& card = cards[sale.customer_id][sale.order_id];
    card.id = sale.order_id;
    if (card.date.empty() || sale.date < card.date) card.date = sale.date;
    card.lines.push_back(sale);
  }
  std::map<std::string, std::vector<OrderCard>, NaturalLess> sorted;
  for (auto& [customer, orders] : cards) {
    for (auto& [id, card] : orders) sorted[customer].push_back(card);
    std::sort(sorted[customer].begin(), sorted[customer].end(), [](const OrderCard& a, const OrderCard& b) {
      return a.date != b.date ? a.date < b.date : natural_compare(a.id, b.id) < 0;
    });
  }
  return sorted;
}

std::int32_t day(const std::string& date) { return parse_iso_moment(date)->date.days; }

std::string money(const std::vector<Sale>& lines) {
  std::int64_t cents = 0;
  for (const Sale& sale : lines) {
    cents += sale.quantity * sale.unit_price;
  }
  return Decimal::from_units(cents * 100).to_text(2);
}

Cells first_twin(const Sales& sales) {
  Cells rows;
  for (const auto& [customer, all] : cards_by_customer(sales)) {
    std::vector<OrderCard> orders;
    std::vector<Sale> everything;
    for (const OrderCard& card : all) {
      if (card.counts()) orders.push_back(card);
      everything.insert(everything.end(), card.lines.begin(), card.lines.end());
    }
    if (orders.empty()) continue;
    std::set<std::string, NaturalLess> products;
    for (const Sale& sale : orders[0].lines) {
      if (!is_return(sale)) products.insert(sale.product_id);
    }
    std::string names;
    for (const std::string& product : products) names += (names.empty() ? "" : " + ") + product;
    const bool again = orders.size() > 1;
    rows.push_back({customer, orders[0].date.substr(0, 10), orders[0].id, names,
                    std::to_string(products.size()), money(orders[0].lines),
                    again ? orders[1].date.substr(0, 10) : "",
                    again ? std::to_string(day(orders[1].date) - day(orders[0].date)) : "",
                    std::to_string(orders.size()), money(everything)});
  }
  return rows;
}

Cells frequency_twin(const Sales& sales, std::optional<int> window) {
  const auto customers = cards_by_customer(sales);
  std::int32_t data_end = 0;
  for (const auto& [customer, orders] : customers) {
    for (const OrderCard& card : orders) data_end = std::max(data_end, day(card.date));
  }
  std::map<int, int> counts;
  int total = 0;
  for (const auto& [customer, orders] : customers) {
    int placed = 0;
    std::optional<std::int32_t> first;
    for (const OrderCard& card : orders) {
      if (!card.counts()) continue;
      if (!first) first = day(card.date);
      if (!window || day(card.date) - *first + 1 <= *window) ++placed;
    }
    if (!first || (window && *first + *window - 1 > data_end)) continue;
    ++counts[placed];
    ++total;
  }
  Cells rows;
  int so_far = 0;
  for (const auto& [orders, number] : counts) {
    so_far += number;
    rows.push_back({std::to_string(orders), std::to_string(number),
                    fmt::format("{:.6f}", 1.0 * number / total),
                    fmt::format("{:.6f}", 1.0 * so_far / total)});
  }
  return rows;
}

analysis::OptionValues within(std::optional<int> window) {
  if (!window) return {};
  return {{"within", std::to_string(*window)}};
}

void expect_checks_hold(const result::Result& result) {
  RC_ASSERT(!result.checks.empty());
  for (const result::Check& check : result.checks) RC_ASSERT(check.holds);
}

/// The rows of first, without is_new.
Cells first_rows(const result::Result& result) {
  Cells rows = cells_of(result.tables.front());
  for (auto& row : rows) row.pop_back();
  return rows;
}

RC_GTEST_PROP(First, EqualsItsTwin, ()) {
  const Sales sales = random_sales(true);
  const result::Result result = ask("first", {}, sales);
  RC_ASSERT(first_rows(result) == first_twin(sales));
  expect_checks_hold(result);
}

RC_GTEST_PROP(Frequency, EqualsItsTwin, ()) {
  const Sales sales = random_sales(true);
  const std::optional<int> window = *rc::gen::element<std::optional<int>>(std::nullopt, 1, 2, 30, 90, 365);
  const result::Result result = ask("frequency", within(window), sales);
  RC_ASSERT(cells_of(result.tables.front()) == frequency_twin(sales, window));
  expect_checks_hold(result);
}

RC_GTEST_PROP(First, EqualsSql, ()) {
  const Sales sales = random_sales();
  RC_ASSERT(first_rows(ask("first", {}, sales)) == ask_sql(sales, "first.sql"));
}

RC_GTEST_PROP(Frequency, EqualsSql, ()) {
  const Sales sales = random_sales();
  const daybook::Daybook daybook = build(sales).daybook;
  RC_ASSERT(cells_of(ask("frequency", {}, daybook).tables.front()) == ask_sql(sales, "frequency.sql"));
  RC_ASSERT(cells_of(ask("frequency", within(90), daybook).tables.front()) ==
            ask_sql(sales, "frequency.sql", 90));
}

/// More customers than one run of the fold, so that states are merged.
TEST(Fold, GivesTheSameForAnyNumberOfThreads) {
  Sales sales;
  for (int i = 0; i < 160'000; ++i)
    sales.push_back({"A" + std::to_string(i), to_text(Date{19'000 + i * 7 % 1000}),
                     "C" + std::to_string(i * 31 % 80'021), "P" + std::to_string(i % 17), 1 + i % 3,
                     100 + i % 900});
  std::vector<Cells> firsts, frequencies;
  for (const std::size_t threads : {1U, 2U, 5U}) {
    const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, threads);
    const daybook::Daybook daybook = build(sales).daybook;
    firsts.push_back(first_rows(ask("first", {}, daybook)));
    frequencies.push_back(cells_of(ask("frequency", within(60), daybook).tables.front()));
  }
  EXPECT_EQ(firsts[0], firsts[1]);
  EXPECT_EQ(firsts[0], firsts[2]);
  EXPECT_EQ(frequencies[0], frequencies[1]);
  EXPECT_EQ(frequencies[0], frequencies[2]);
  EXPECT_EQ(firsts[0], first_twin(sales));
}

// Traps of the design's section 9 that these questions could fall into.

TEST(Trap, OldCustomersAreNotComparedWithNewOnesWithoutTimeToOrder) {
  const Sales sales = {{"A1", "2024-01-01", "C1", "P1", 1, 100},
                       {"A2", "2024-03-30", "C1", "P1", 1, 100},
                       {"A3", "2024-03-31", "C2", "P1", 1, 100}};
  const result::Result result = ask("frequency", within(90), sales);
  EXPECT_EQ(cells_of(result.tables.front()), (Cells{{"2", "1", "1.000000", "1.000000"}}));
  EXPECT_EQ(result.notes,
            std::vector<std::string>{"1 customer left out as too new: their first 90 days are not entirely "
                                     "within the data, which ends on 2024-03-31."});
}

TEST(Trap, TheWindowEndsExactlyWithDayN) {
  const Sales sales = {{"A1", "2024-01-01", "C1", "P1", 1, 100},
                       {"A2", "2024-01-10", "C1", "P1", 1, 100},
                       {"A3", "2024-01-11", "C1", "P1", 1, 100}};
  EXPECT_EQ(cells_of(ask("frequency", within(10), sales).tables.front()).front().front(), "2");
}

TEST(Trap, LinesAreNotCountedInsteadOfOrders) {
  const Sales sales = {{"A1", "2024-01-01", "C1", "P1", 1, 100},
                       {"A1", "2024-01-01", "C1", "P2", 1, 100},
                       {"A1", "2024-01-01", "C2", "P2", 1, 100}};
  EXPECT_EQ(cells_of(ask("frequency", {}, sales).tables.front()),
            (Cells{{"1", "2", "1.000000", "1.000000"}}));
}

TEST(Frequency, FigureCombinesTheLongTail) {
  Sales sales;
  for (int orders : {1, 1, 1, 1, 2, 2, 3, 40}) {
    const std::string customer = "C" + std::to_string(sales.size());
    for (int i = 0; i < orders; ++i)
      sales.push_back({"A" + std::to_string(sales.size()), "2024-01-01", customer, "P1", 1, 100});
  }
  const result::Result result = ask("frequency", {}, sales);
  const result::Table& marks = result.figures.front().marks;
  ASSERT_EQ(marks.rows(), 12U);
  EXPECT_EQ(result::cell_text(marks.columns[0], 0), "1");
  EXPECT_EQ(result::cell_text(marks.columns[1], 0), "0.500000");
  EXPECT_EQ(result::cell_text(marks.columns[1], 3), "0.000000");
  EXPECT_EQ(result::cell_text(marks.columns[0], 11), "12 or more");
  EXPECT_EQ(result::cell_text(marks.columns[1], 11), "0.125000");
  EXPECT_EQ(result.headline.front(), "4 of 8 customers (50.0%) ordered again; 50.0% ordered only once.");
}

TEST(First, ReportsThatNobodyPlacedAnOrder) {
  const result::Result result = ask("first", {}, Sales{{"A1", "2024-01-01", "C1", "P1", -1, 100}});
  EXPECT_EQ(result.tables.front().rows(), 0U);
  EXPECT_EQ(result.headline, std::vector<std::string>{"No customer placed an order."});
  EXPECT_EQ(result.notes, std::vector<std::string>{"1 customer left out: they have returns but no order."});
}

}  // namespace
}  // namespace pear::test
