// Price paid, compared with SQL, and with what an average of averages would give.
#include <cmath>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "support/asking.hpp"
#include "support/results.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

/// A quotient of whole numbers, rounded half away from zero, in SQL.
std::string rounded(const std::string& a, const std::string& b) {
  return fmt::format("((2 * ({0}) + CASE WHEN ({0}) < 0 THEN -({1}) ELSE ({1}) END) / (2 * ({1})))", a, b);
}

/// Views `pairs` and `priced`, which every other SQL statement here uses. Amounts and pieces in units of
/// Decimal.
std::string with_pairs() {
  return "WITH bought AS (SELECT product_id, customer_id, order_id, quantity_u AS q, amount_u AS a, "
         "list_price_u"
         " AS l, " +
         rounded("amount_u * 10000", "quantity_u") +
         " AS price FROM lines WHERE NOT is_return AND quantity_u > 0),"
         "pairs AS (SELECT product_id, customer_id, count(DISTINCT order_id) AS orders, sum(q) AS q, sum(a) "
         "AS a,"
         " min(price) AS low, max(price) AS high, sum(q * l) AS lv, sum(CASE WHEN l IS NOT NULL THEN q END) "
         "AS lq,"
         " sum(CASE WHEN l IS NOT NULL THEN a END) AS la, max(l) AS lmax FROM bought GROUP BY 1, 2),"
         "priced AS (SELECT *, sum(q) OVER (PARTITION BY product_id) AS aq, sum(a) OVER (PARTITION BY "
         "product_id)"
         " AS aa FROM pairs)";
}

/// What a pair is compared with, as amount and pieces; and the gap.
struct Reference {
  std::string amount, pieces, gap;
};

Reference reference_of(const std::string& against) {
  if (against == "list") return {"lv / 10000.0", "lq", rounded("lv", "10000") + " - la"};
  const std::string amount = against == "all" ? "aa" : "aa - a", pieces = against == "all" ? "aq" : "aq - q";
  return {
      amount, pieces,
      "CASE WHEN " + pieces + " > 0 THEN " + rounded(fmt::format("q * ({})", amount), pieces) + " - a END"};
}

RC_GTEST_PROP(Prices, EqualSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const std::string against = *rc::gen::element<std::string>("all", "others", "list");
  const int bound = pick(50, 130);
  const int kind = pick(0, 2);
  analysis::OptionValues options = {{"against", against}};
  if (kind > 0) options.emplace_back(kind == 1 ? "below" : "above", std::to_string(bound));
  const auto result = try_to_ask("prices", options, daybook);
  if (!result) return;  // nothing bought
  const Reference reference = reference_of(against);
  // price - bound per cent of what it is compared with, multiplied by positive numbers
  const std::string difference =
      against == "list" ? fmt::format("CASE WHEN lq > 0 THEN la * 10000 * 100 - {} * lv END", bound)
                        : fmt::format("CASE WHEN {1} > 0 THEN 100 * a * ({1}) - {2} * ({0}) * q END",
                                      reference.amount, reference.pieces, bound);
  const std::string index = "CASE WHEN {1} > 0 AND {0} > 0 THEN share(1.0 * a / q, 1.0 * ({0}) / ({1})) END";
  Cells theirs = sql.ask(
      with_pairs() +
      fmt::format(
          "SELECT product_id, customer_id, orders, q, a, {}, {}, CASE WHEN aq > q THEN {} END, {}, {}, {} AS"
          " gap, low, high, CASE WHEN lq > 0 THEN {} END, CASE WHEN lv > 0 THEN share(la * 10000.0, lv) END"
          " FROM priced WHERE {} ORDER BY gap IS NULL, gap {}, length(product_id), product_id,"
          " length(customer_id), customer_id",
          rounded("a * 10000", "q"), rounded("aa * 10000", "aq"), rounded("(aa - a) * 10000", "(aq - q)"),
          fmt::format(fmt::runtime(index), "aa", "aq"),
          fmt::format(fmt::runtime(index), "(aa - a)", "(aq - q)"), reference.gap, rounded("lv", "lq"),
          kind == 0   ? "true"
          : kind == 1 ? difference + " < 0"
                      : difference + " > 0",
          kind == 2 ? "ASC" : "DESC"));
  for (auto& row : theirs) {
    row[3] = Decimal::from_units(std::stoll(row[3])).to_text();
    for (const std::size_t money : {4U, 5U, 6U, 7U, 10U, 11U, 12U, 13U}) row[money] = money_text(row[money]);
  }
  RC_ASSERT(columns_of(table(*result, ""),
                       {"product_id", "customer_id", "orders", "quantity", "amount", "average_price",
                        "product_average", "others_average", "index", "index_of_others", "gap_amount",
                        "lowest_price", "highest_price", "list_price", "list_index"}) == theirs);
  expect_checks_hold(*result);
}

RC_GTEST_PROP(Prices, OfCustomersEqualSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const auto result = try_to_ask("prices", {}, daybook);
  if (!result) return;
  Cells theirs = sql.ask(
      with_pairs() +
      fmt::format(
          ", gaps AS (SELECT *, {} AS gap, 1.0 * q * aa / aq AS at_average,"
          " first_value(product_id) OVER (PARTITION BY customer_id ORDER BY high DESC, length(product_id),"
          " product_id) AS dearest, first_value(product_id) OVER (PARTITION BY customer_id ORDER BY lmax IS "
          "NULL,"
          " lmax DESC, length(product_id), product_id) AS listed FROM priced)"
          "SELECT customer_id, count(*), sum(q), sum(a), coalesce(sum(gap), 0) AS gap, max(high), dearest,"
          " max(lmax), CASE WHEN max(lmax) IS NOT NULL THEN listed END, sum(a) / sum(at_average) FROM gaps"
          " GROUP BY customer_id ORDER BY gap DESC, length(customer_id), customer_id",
          reference_of("others").gap));
  Cells ours = columns_of(table(*result, "customers"),
                          {"customer_id", "products", "quantity", "amount", "gap_amount", "highest_price",
                           "highest_price_product", "highest_list_price", "highest_list_product", "index"});
  RC_ASSERT(ours.size() == theirs.size());
  for (std::size_t row = 0; row < ours.size(); ++row) {
    theirs[row][2] = Decimal::from_units(std::stoll(theirs[row][2])).to_text();
    for (const std::size_t money : {3U, 4U, 5U, 7U}) theirs[row][money] = money_text(theirs[row][money]);
    const std::string index = ours[row].back(), theirs_index = theirs[row].back();
    RC_ASSERT(index.empty() == theirs_index.empty());
    if (!index.empty()) RC_ASSERT(std::abs(std::stod(index) - std::stod(theirs_index)) < 1e-6);
    ours[row].pop_back(), theirs[row].pop_back();
  }
  RC_ASSERT(ours == theirs);
}

RC_GTEST_PROP(Prices, OfProductsEqualSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const auto result = try_to_ask("prices", {{"against", "all"}}, daybook);
  if (!result) return;
  Cells theirs = sql.ask(
      with_pairs() +
      fmt::format(
          ", ranked AS (SELECT *, {} AS average, row_number() OVER (PARTITION BY product_id ORDER BY {}) AS "
          "n,"
          " count(*) OVER (PARTITION BY product_id) AS size FROM priced)"
          "SELECT product_id, count(*), sum(q), sum(a) AS amount, {}, min(low),"
          " max(average) FILTER (WHERE n = (size + 3) / 4), max(average) FILTER (WHERE n = (size + 1) / 2),"
          " max(average) FILTER (WHERE n = (3 * size + 3) / 4), max(high),"
          " CASE WHEN sum(lq) > 0 THEN {} END, sum(a * aq < aa * q)"
          " FROM ranked GROUP BY product_id ORDER BY amount DESC, length(product_id), product_id",
          rounded("a * 10000", "q"), rounded("a * 10000", "q"), rounded("sum(a) * 10000", "sum(q)"),
          rounded("sum(lv)", "sum(lq)")));
  for (auto& row : theirs) {
    row[2] = Decimal::from_units(std::stoll(row[2])).to_text();
    for (const std::size_t money : {3U, 4U, 5U, 6U, 7U, 8U, 9U, 10U}) row[money] = money_text(row[money]);
  }
  RC_ASSERT(columns_of(table(*result, "products"),
                       {"product_id", "customers", "quantity", "amount", "average_price", "lowest_price",
                        "price_p25", "price_median", "price_p75", "highest_price", "list_price",
                        "customers_below"}) == theirs);
}

RC_GTEST_PROP(Prices, ByMonthEqualSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const std::string product(daybook.product_ids()[0]);
  const auto result = try_to_ask("prices", {{"product", product}}, daybook);
  if (!result) return;
  Cells theirs = sql.ask(
      "SELECT product_id, substr(min(order_date), 1, 7) AS m, count(DISTINCT customer_id), sum(quantity_u),"
      " sum(amount_u), " +
      rounded("sum(amount_u) * 10000", "sum(quantity_u)") + ", min(" +
      rounded("amount_u * 10000", "quantity_u") + "), max(" + rounded("amount_u * 10000", "quantity_u") +
      fmt::format(") FROM lines WHERE NOT is_return AND quantity_u > 0 AND product_id = '{}'"
                  " GROUP BY substr(order_date, 1, 7) ORDER BY m",
                  product));
  for (auto& row : theirs) {
    row[3] = Decimal::from_units(std::stoll(row[3])).to_text();
    for (const std::size_t money : {4U, 5U, 6U, 7U}) row[money] = money_text(row[money]);
  }
  RC_ASSERT(cells_of(table(*result, "months")) == theirs);
  RC_ASSERT(table(*result, "products").rows() == 1U);
}

/// C1 pays less for most pieces, C2 has the lower mean of its two prices: an average of averages names the
/// wrong one.
TEST(Prices, AveragesAreWeightedByPieces) {
  const Sales sales = {{"A1", "2024-01-01", "C1", "P1", 98, 100},
                       {"A2", "2024-01-02", "C1", "P1", 2, 300},
                       {"A3", "2024-01-01", "C2", "P1", 1, 100},
                       {"A4", "2024-01-02", "C2", "P1", 99, 200}};
  const result::Result result = ask("prices", {{"below", "100%"}, {"against", "all"}}, sales);
  EXPECT_EQ(columns_of(table(result, ""), {"customer_id", "average_price", "index", "gap_amount"}),
            (Cells{{"C1", "1.04", "0.686469", "47.50"}}));  // of averages: C1 2.00, C2 1.50
}

TEST(Prices, ASingleBuyerHasNoComparison) {
  const result::Result result =
      ask("prices", {}, {{"A1", "2024-01-01", "C1", "P1", 2, 150}, {"A1", "2024-01-01", "C1", "P2", 0, 99}});
  EXPECT_EQ(columns_of(table(result, ""),
                       {"others_average", "index", "index_of_others", "gap_amount", "unexplained"}),
            (Cells{{"", "1.000000", "", "", ""}}));
  EXPECT_EQ(result.headline.front(),
            "No product has 20 customers, the least number to compare prices by quantity.");
  EXPECT_EQ(result.notes,
            (std::vector<std::string>{
                "1 product has fewer than 20 customers, too few to compare prices by quantity: P1.",
                "1 line is without a quantity above 0: these have no price and are left out."}));
}

/// In four orders each, forty customers pay 10 for one piece of each of five products; ten who buy 40 pay 8;
/// and one pays 8 for one.
Sales sales_with_volume_discount() {
  Sales sales;
  for (int customer = 1; customer <= 51; ++customer) {
    const bool buys_much = customer > 40 && customer <= 50, quiet = customer == 51;
    for (int order = 1; order <= 4; ++order)
      for (int product = 1; product <= 5; ++product)
        sales.push_back({fmt::format("A{}-{}", customer, order), fmt::format("2024-01-{:02}", order),
                         fmt::format("C{}", customer), fmt::format("P{}", product), buys_much ? 40 : 1,
                         buys_much || quiet ? 800 : 1000});
  }
  return sales;
}

TEST(Prices, DistinguishesVolumeFromUnexplainedPrices) {
  const result::Result result = ask("prices", {}, sales_with_volume_discount());
  Cells reasons;
  for (const auto& row : columns_of(table(result, "customers"), {"customer_id", "reason", "unexplained",
                                                                 "compared_orders", "low_orders"}))
    if (!row[1].empty() && (row[0] == "C51" || row[0] == "C41")) reasons.push_back(row);
  EXPECT_EQ(reasons,
            (Cells{{"C41", "volume", "1.000000", "4", "0"}, {"C51", "unexplained", "0.800000", "4", "4"}}));
  EXPECT_EQ(result.headline[0],
            "1 customer pays 20.0% less than customers with the same volume, 40.00 in total: volume does not "
            "explain it.");
  EXPECT_EQ(result.headline[1],
            "10 customers pay 20.0% less than usual and buy far more: 40 times the usual quantity.");
}

/// One discounted order is one observation, however many products it contains.
TEST(Prices, OneOrderIsNoSignificantDiscount) {
  Sales sales;
  for (int customer = 1; customer <= 51; ++customer)
    for (int product = 1; product <= 12; ++product)
      sales.push_back({fmt::format("A{}", customer), "2024-01-01", fmt::format("C{}", customer),
                       fmt::format("P{}", product), 1, customer == 51 ? 800 : 1000});
  const result::Result result = ask("prices", {}, sales);
  EXPECT_EQ(result.headline[0], "No customer pays significantly less than customers with the same volume.");
  EXPECT_EQ(columns_of(table(result, "customers"), {"customer_id", "low_orders", "reason"})[0],
            (Cells::value_type{"C51", "1", ""}));
}

/// Exactly 5% less is at least 5% less, at any price.
TEST(Prices, ComparesExactly) {
  for (const int unit : {10, 19, 100, 133}) {
    Sales sales;
    for (int customer = 0; customer < 30; ++customer)
      sales.push_back({fmt::format("A{}", customer), "2024-01-01", fmt::format("C{}", customer), "P1",
                       customer < 10 ? 2 : 1, unit * (customer < 10 ? 19 : 20)});
    Cells below;
    for (const auto& row :
         columns_of(table(ask("prices", {}, sales), "customers"), {"customer_id", "orders_below_usual"}))
      if (row[1] == "1") below.push_back(row);
    EXPECT_EQ(below.size(), 10U) << unit;
  }
  Sales sales;
  for (int customer = 0; customer < 30; ++customer)
    sales.push_back({fmt::format("A{}", customer), "2024-01-01", fmt::format("C{}", customer), "P1", 1,
                     customer == 29   ? 1900
                     : customer == 28 ? 1899
                                      : 2000});
  EXPECT_EQ(ask("prices", {{"product", "P1"}}, sales).headline.back(),
            "2 customers (6.7%) paid at least 5% less for it than customers with the same volume.");
}

TEST(Prices, AnyPriceIsAboveNothing) {
  const result::Result result =
      ask("prices", {{"above", "105%"}},
          {{"A1", "2024-01-01", "C1", "P1", 1, 50}, {"A2", "2024-01-01", "C2", "P1", 1, 0}});
  EXPECT_EQ(columns_of(table(result, ""), {"customer_id", "others_average"}), (Cells{{"C1", "0.00"}}));
}

TEST(Prices, ReportsMistakes) {
  const daybook::Daybook daybook = build({{"A1", "2024-01-01", "C1", "P1", 2, 150}}).daybook;
  const auto error = [&](const analysis::OptionValues& options) {
    return try_to_ask("prices", options, daybook).error().message;
  };
  EXPECT_EQ(error({{"against", "list"}}),
            "--against list: there is no list_price. Import it from the product list or a price list "
            "(see docs/intake-file.md), or compare with others.");
  EXPECT_EQ(error({{"below", "cheap"}}), "--below takes a share such as 0.05 or 5%, not \"cheap\".");
  EXPECT_EQ(error({{"product", "P2"}}),
            "there is no product with \"P2\" in its id among the selected 1. Did you mean \"P1\"?");
}

}  // namespace
}  // namespace pear::test
