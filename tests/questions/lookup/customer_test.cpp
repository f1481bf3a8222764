// One customer and one product, compared with SQL.
#include <algorithm>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "support/asking.hpp"
#include "support/results.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

std::string id_of(const TextArray& ids) {
  return std::string(ids[static_cast<std::size_t>(pick(0, static_cast<int>(ids.size()) - 1))]);
}

RC_GTEST_PROP(Customer, HistoryEqualsSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const std::string id = id_of(daybook.customer_ids());
  const result::Result result = ask("customer", {{"find", id}}, daybook);
  const Cells ours = columns_of(result.tables.front(), {"order_date", "order_id", "product_id", "kind",
                                                        "quantity", "amount", "running_amount"});
  // Lines of one product in one order are in the order of the file, which SQL does not know: compare their
  // totals.
  Cells theirs = sql.ask(fmt::format(
      "WITH own AS (SELECT *, rowid AS n FROM lines WHERE customer_id = '{}'),"
      "kinds AS (SELECT own.*, CASE WHEN is_return THEN 'return' WHEN EXISTS (SELECT 1 FROM own AS o WHERE "
      "o.product_id ="
      " own.product_id AND NOT o.is_return AND (o.order_date, length(o.order_id), o.order_id) < "
      "(own.order_date,"
      " length(own.order_id), own.order_id)) THEN 'again' ELSE 'new' END AS kind FROM own)"
      "SELECT order_date, order_id, product_id, kind, quantity_u / 10000, printf('%.2f', amount_u / 10000.0),"
      " printf('%.2f', sum(amount_u) OVER (ORDER BY n) / 10000.0) FROM kinds ORDER BY n",
      id));
  RC_ASSERT(ours == theirs);
  expect_checks_hold(result);
}

RC_GTEST_PROP(Product, BuyersAndCompanionsEqualSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const std::string id = id_of(daybook.product_ids());
  const result::Result result = ask("product", {{"find", id}}, daybook);
  expect_checks_hold(result);
  const std::string own = fmt::format("product_id = '{}'", id);
  Cells ours = columns_of(result.tables.front(), {"customer_id", "orders", "quantity", "returned", "amount",
                                                  "lowest_price", "first_date", "last_date"});
  Cells theirs =
      sql.ask(fmt::format("SELECT customer_id, count(DISTINCT order_id) FILTER (WHERE NOT is_return), "
                          "sum(quantity_u) FILTER (WHERE NOT is_return) / 10000,"
                          " abs(coalesce(sum(abs(quantity_u)) FILTER (WHERE is_return), 0)) / 10000, "
                          "printf('%.2f', sum(amount_u) / 10000.0),"
                          " min((2 * amount_u * 10000 + quantity_u) / (2 * quantity_u)) FILTER (WHERE NOT "
                          "is_return AND quantity_u > "
                          "0), "
                          "min(order_date) FILTER (WHERE NOT is_return),"
                          " max(order_date) FILTER (WHERE NOT is_return) FROM lines WHERE {} GROUP BY "
                          "customer_id HAVING min(is_return) = 0",
                          own));
  for (auto& row : theirs) row[5] = money_text(row[5]);
  std::sort(ours.begin(), ours.end());
  std::sort(theirs.begin(), theirs.end());
  RC_ASSERT(ours == theirs);
  ours = columns_of(table(result, "with"), {"product_id", "orders"});
  theirs =
      sql.ask(fmt::format("SELECT product_id, count(DISTINCT customer_id || '|' || order_id) FROM lines "
                          "WHERE NOT is_return AND NOT {0} AND"
                          " customer_id || '|' || order_id IN (SELECT customer_id || '|' || order_id FROM "
                          "lines WHERE {0} AND NOT is_return) GROUP BY product_id",
                          own));
  std::sort(ours.begin(), ours.end());
  std::sort(theirs.begin(), theirs.end());
  RC_ASSERT(ours == theirs);
}

daybook::Daybook two_of_a_name() {
  daybook::DaybookParts parts = build({{"A1", "2024-01-01", "C1", "P1", 2, 150},
                                       {"A2", "2024-01-11", "C1", "P1", 1, 150},
                                       {"A3", "2024-02-01", "C1", "P1", -1, 150},
                                       {"A4", "2024-01-05", "C2", "P2", 1, 1000},
                                       {"A5", "2024-03-01", "C3", "P2", 1, 1000}})
                                    .daybook.parts();
  daybook::TextValues names{{0, 0, 1}, {}};
  names.dictionary.push_back("Ada Fen");
  names.dictionary.push_back("Bo Lind");
  parts.columns.push_back({"customer_name", daybook::Level::customer, std::move(names)});
  return daybook::Daybook(std::move(parts));
}

TEST(Customer, ShowsOrdersDatesAndAmounts) {
  const result::Result result = ask("customer", {{"find", "bo lind"}}, two_of_a_name());
  EXPECT_EQ(result.headline.front(), "C3 Bo Lind: 1 order on 2024-03-01, 1 distinct product, 10.00.");
  const result::Result other = ask("customer", {{"find", "C1"}}, two_of_a_name());
  EXPECT_EQ(
      other.headline,
      (std::vector<std::string>{
          "C1 Ada Fen: 2 orders from 2024-01-01 to 2024-01-11, 1 distinct product, 3.00.",
          "The last order was 50 days before the end of the data; the median between orders is 10 days."}));
  EXPECT_EQ(columns_of(other.tables.front(), {"kind", "days_since", "running_amount"}),
            (Cells{{"new", "", "3.00"}, {"again", "10", "4.50"}, {"return", "", "3.00"}}));
}

/// 2 pieces at 10.00 for 18.00: the price paid is 9.00, in every table.
TEST(Product, PricesPaidAreAfterDiscounts) {
  daybook::DaybookParts parts = build({{"A1", "2024-01-01", "C1", "P1", 2, 1000},
                                       {"A2", "2024-01-02", "C2", "P1", 1, 1000},
                                       {"A3", "2024-01-03", "C2", "P1", -1, 1000}})
                                    .daybook.take_parts();
  for (daybook::Column& column : parts.columns)
    if (column.name == "amount") std::get<daybook::DecimalValues>(column.values).units[0] = 180'000;
  const daybook::Daybook daybook(std::move(parts));
  const result::Result product = ask("product", {{"find", "P1"}}, daybook);
  EXPECT_EQ(
      columns_of(product.tables.front(), {"customer_id", "average_price", "lowest_price", "highest_price"}),
      (Cells{{"C1", "9.00", "9.00", "9.00"}, {"C2", "10.00", "10.00", "10.00"}}));
  EXPECT_EQ(columns_of(table(product, "prices"), {"price_paid", "unit_price", "quantity"}),
            (Cells{{"9.00", "10.00", "2"}, {"10.00", "10.00", "1"}}));
  EXPECT_EQ(product.headline.front(),
            "P1: 2 customers bought 3 pieces in 2 orders for 28.00, from 2024-01-01 to 2024-01-02.");
  EXPECT_EQ(
      columns_of(ask("customer", {{"find", "C1"}}, daybook).tables.front(), {"price_paid", "unit_price"}),
      (Cells{{"9.00", "10.00"}}));
  EXPECT_EQ(columns_of(table(ask("first", {{"per", "product"}, {"run-in", "0"}}, daybook), "product"),
                       {"customer_id", "price_paid", "unit_price"}),
            (Cells{{"C1", "9.00", "10.00"}, {"C2", "10.00", "10.00"}}));
}

/// Case is ignored in all scripts, not only in ASCII.
TEST(Customer, IsFoundByNameInAnyCase) {
  daybook::DaybookParts parts = two_of_a_name().take_parts();
  for (daybook::Column& column : parts.columns) {
    if (column.name != "customer_name") continue;
    auto& names = std::get<daybook::TextValues>(column.values);
    names.dictionary = {};
    names.dictionary.push_back("Ämelie ÖSTERGÅRD");
    names.dictionary.push_back("Σοφία");
  }
  const daybook::Daybook daybook(std::move(parts));
  for (const char* name : {"ämelie östergård", "ÄMELIE ÖSTERGÅRD"})
    EXPECT_EQ(ask("customer", {{"find", name}}, daybook).tables.front().rows(), 2U) << name;
  EXPECT_EQ(ask("customer", {{"find", "ΣΟΦΊΑ"}}, daybook).headline.front().substr(0, 2), "C3");
}

/// The trap: customers grouped by a name that two of them share.
TEST(Trap, NamesakesRemainTwoCustomers) {
  const result::Result result = ask("customer", {{"find", "Ada Fen"}}, two_of_a_name());
  EXPECT_EQ(columns_of(result.tables.front(), {"customer_id", "customer_name", "orders", "amount"}),
            (Cells{{"C1", "Ada Fen", "2", "3.00"}, {"C2", "Ada Fen", "1", "10.00"}}));
  EXPECT_EQ(result.headline.front(), "2 customers match \"Ada Fen\": C1 Ada Fen, C2 Ada Fen.");
}

TEST(Customer, ReportsUnknownCustomers) {
  const daybook::Daybook daybook = two_of_a_name();
  const auto fault = [&](const std::string& question, const analysis::OptionValues& options) {
    const auto result = try_to_ask(question, options, daybook);
    return result ? std::string() : result.error().message;
  };
  EXPECT_EQ(fault("customer", {}), "customer takes an id or a part of a name: pear-thread customer C101");
  EXPECT_EQ(fault("customer", {{"find", "C11"}}),
            "there is no customer with \"C11\" in its id or name among the selected 3. Did you mean \"C1\"?");
  EXPECT_EQ(fault("customer", {{"find", "Ada Fenn"}}),
            "there is no customer with \"Ada Fenn\" in its id or name among the selected 3. Did you mean "
            "\"Ada Fen\"?");
  EXPECT_EQ(fault("product", {{"find", "Yarn"}}),
            "there is no product with \"Yarn\" in its id among the selected 2.");
}

}  // namespace
}  // namespace pear::test
