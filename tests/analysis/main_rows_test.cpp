// The options of the main table, names next to ids, and customers who are silent, in any question.
#include <algorithm>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/natural_order.hpp"
#include "daybook/columns/derived_columns.hpp"
#include "result/cell_text.hpp"
#include "support/asking.hpp"
#include "support/importing.hpp"
#include "support/results.hpp"

namespace pear::test {
namespace {

/// Against the whole table, filtered, sorted and cut by hand.
RC_GTEST_PROP(MainRows, AreFilteredSortedAndCut, ()) {
  const daybook::Daybook daybook = random_daybook();
  const analysis::OptionValues plain = {{"per", "product_id"}};
  const auto whole = try_to_ask("concentration", plain, daybook);
  RC_PRE(whole.has_value());
  const int least = pick(-5, 60), limit = pick(1, 4), offset = pick(0, 3);
  const std::string share = *rc::gen::element<std::string>("0.05", "0.1", "0.2500", "0.5", "1");
  const std::string sign = *rc::gen::element<std::string>("<", "<=", ">", ">=");
  analysis::OptionValues options = plain;
  options.emplace_back("having", fmt::format("amount >= {} AND share {} {}", least, sign, share));
  options.emplace_back("sort", "share desc, product_id desc");
  options.emplace_back("limit", std::to_string(limit));
  options.emplace_back("offset", std::to_string(offset));
  const result::Table& all = whole->tables.front();
  std::vector<std::uint32_t> rows;
  for (std::uint32_t row = 0; row < all.rows(); ++row) {
    const double part = all.column("share").fraction(row), bound = std::stod(share);
    const bool compares = std::isnan(part) ? false
                          : sign == "<"    ? part < bound
                          : sign == "<="   ? part <= bound
                          : sign == ">"    ? part > bound
                                           : part >= bound;
    if (compares && all.column("amount").integer(row) >= least * Decimal::kScale) rows.push_back(row);
  }
  std::sort(rows.begin(), rows.end(), [&](std::uint32_t a, std::uint32_t b) {
    const double left = all.column("share").fraction(a), right = all.column("share").fraction(b);
    if (left != right) return left > right;
    return NaturalLess{}(all.column("product_id").text(b), all.column("product_id").text(a));
  });
  Cells expected;
  const Cells cells = cells_of(all);
  for (std::size_t i = static_cast<std::size_t>(offset);
       i < std::min(rows.size(), static_cast<std::size_t>(offset + limit)); ++i)
    expected.push_back(cells[rows[i]]);
  RC_ASSERT(cells_of(ask("concentration", options, daybook).tables.front()) == expected);
}

TEST(MainRows, MistakesNameTheColumns) {
  const daybook::Daybook daybook = build({{"A1", "2024-01-01", "C1", "P1", 1, 150}}).daybook;
  const auto fault = [&](const std::string& option, const std::string& text) {
    const auto result = try_to_ask("frequency", {{option, text}}, daybook);
    return result ? "" : result.error().message;
  };
  EXPECT_EQ(fault("sort", "custmers"),
            "--sort: the table \"Customers by number of orders\" has no column \"custmers\". Did you mean "
            "\"customers\"?");
  EXPECT_EQ(fault("having", "custmers > 3"),
            "--having: there is no column \"custmers\". Did you mean \"customers\"? (column 1)");
  EXPECT_EQ(ask("frequency", {{"with", "customer_orders"}}, daybook).notes.back(),
            "--with customer_orders is not shown: no table here has rows of customers or products that it "
            "describes.");
  EXPECT_EQ(fault("with", "quantity"),
            "--with: \"quantity\" is not one value for each customer, nor one for each product.");
}

/// Each row has the region and category of its own customer and product, wherever the ids are.
RC_GTEST_PROP(MemberLabels, AreThoseOfTheIdNextToThem, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const Cells known = sql.ask("SELECT DISTINCT customer_id, coalesce(region, '') FROM lines");
  const Cells products = sql.ask("SELECT DISTINCT product_id, coalesce(category, '') FROM lines");
  const auto expect_known = [&](const result::Table& table, const std::string& id, const std::string& label,
                                const Cells& members) {
    for (const auto& row : columns_of(table, {id, label}))
      if (row[0] != "Total") RC_ASSERT(std::find(members.begin(), members.end(), row) != members.end());
  };
  const result::Result lists = ask("frequency", {{"list", "true"}, {"with", "region"}}, daybook);
  if (lists.tables.size() > 1) expect_known(table(lists, "list"), "customer_id", "region", known);
  const result::Result cells =
      ask("crosstab", {{"down", "product_id,category,customer_id,region"}, {"count", "lines"}}, daybook);
  expect_known(table(cells, "long"), "customer_id", "region", known);
  expect_known(table(cells, "long"), "product_id", "category", products);
  const result::Result levels =
      ask("crosstab", {{"down", "product_id,customer_id"}, {"count", "lines"}}, daybook);
  RC_ASSERT(cells.tables.front().totals == levels.tables.front().totals);
}

/// Names are shown where each customer, or product, has one: not those that differ from order to order.
TEST(MemberLabels, NamesAreThoseOfTheWholeCustomer) {
  const std::string header =
      "order_id,order_date,customer_id,product_id,quantity,unit_price,customer_name,product_name\n";
  const auto columns = [&](const std::string& second) {
    const ImportRun run = import_text(header + "A1,2024-01-01,C1,P1,1,1,Ash,Yarn\nA2,2024-01-02,C1,P2,1,1," +
                                      second + "A3,2024-01-03,C2,P1,1,1,Oak,Yarn\n");
    const daybook::Daybook& daybook = run.imported->built.daybook;
    const result::Result list = ask("frequency", {{"list", "true"}}, daybook),
                         ranking = ask("concentration", {{"per", "product_id"}}, daybook);
    std::string names;
    for (const result::Table* each : {&list.tables.back(), &ranking.tables.front()})
      for (const result::TableColumn& column : each->columns)
        if (column.name.ends_with("_name")) names += column.name + "=" + result::cell_text(column, 0) + " ";
    return names;
  };
  EXPECT_EQ(columns("Ash,Needles\n"), "customer_name=Oak product_name=Yarn ");
  EXPECT_EQ(columns("Elm,Needles\n"), "product_name=Yarn ") << "the name of an order";
}

RC_GTEST_PROP(QuietSince, LeavesOutCustomersWhoOrderedLater, ()) {
  const daybook::Daybook daybook = build(random_sales()).daybook;
  const LinesInSql sql(daybook::completed(daybook, {"last_order_date"}));
  const std::string day = fmt::format("2024-{:02}-01", pick(1, 12));
  const auto quiet = try_to_ask("distinct", {{"count", "customer_id"}, {"quiet-since", day}}, daybook);
  const std::string customers =
      sql.ask(fmt::format("SELECT count(DISTINCT customer_id) FROM lines WHERE last_order_date < '{0}' OR "
                          "last_order_date IS NULL",
                          day))
          .front()
          .front();
  RC_ASSERT((quiet ? std::to_string(quiet->population.customers) : "0") == customers);
}

TEST(CurrentDate, IsTheEndOfTheWholeData) {
  const daybook::Daybook daybook = build({{"A1", "2024-01-01", "C1", "P1", 1, 150},
                                          {"A2", "2024-03-31", "C1", "P1", 1, 150},
                                          {"A3", "2024-03-01", "C2", "P1", 1, 150}})
                                       .daybook;
  const result::Result result = ask("distinct",
                                    {{"count", "order_id"},
                                     {"where", "order_date > CURRENT_DATE - INTERVAL '31' DAY"},
                                     {"to", "2024-03-02"}},
                                    daybook);
  EXPECT_EQ(result.population.orders, 1U);  // A3: 30 days before A2, which --to leaves out
  EXPECT_EQ(result.notes.back(), "CURRENT_DATE is 2024-03-31, the end of the data.");
  EXPECT_EQ(ask("distinct", {{"from", "last 1 month"}}, daybook).selection, "from 2024-03-01 (last 1 month)");
}

/// More values than a table can hold are no error: the others are combined, and nothing is lost.
TEST(ManyValues, AreCombined) {
  Sales sales;
  for (int i = 0; i < 16'500; ++i)
    sales.push_back(
        {fmt::format("A{}", i), "2024-01-01", fmt::format("C{}", i % 1'200), fmt::format("P{}", i), 1, 100});
  sales.push_back({"B", "2024-01-02", "C7", "P7", 1, 900});
  const daybook::Daybook daybook = build(sales).daybook;
  const result::Result groups = ask("frequency", {{"by", "customer_id"}}, daybook);
  for (const result::Check& check : groups.checks) EXPECT_TRUE(check.holds) << check.statement;
  EXPECT_EQ(
      groups.notes.front(),
      "202 values of customer_id are combined in \"other\": the 998 that most customers have are kept.");
  const result::Result columns = ask("crosstab", {{"across", "product_id"}}, daybook);
  for (const result::Check& check : columns.checks) EXPECT_TRUE(check.holds) << check.statement;
  EXPECT_EQ(columns.tables.front().columns.size(), 52U);
  EXPECT_EQ(columns.tables.front().columns.front().name, "P7");
  EXPECT_EQ(columns.tables.front().columns[50].name, "other (16,450)");
  EXPECT_EQ(
      columns.notes.front(),
      "16,450 columns are combined in \"other\", because there are too many for a table: those with the "
      "largest sales are kept.");
}

TEST(Conditions, ACommonMistakeIsExplained) {
  const daybook::Daybook daybook = build({{"A1", "2024-01-01", "C1", "P1", 1, 150}}).daybook;
  const auto fault = [&](const std::string& where) {
    return try_to_ask("distinct", {{"where", where}}, daybook).error().message;
  };
  EXPECT_NE(
      fault("product_id LIKE 'p%'")
          .find("No product_id is LIKE \"p%\". Upper and lower case differ; LOWER(product_id) LIKE 'p%' "
                "finds both."),
      std::string::npos)
      << fault("product_id LIKE 'p%'");
  EXPECT_EQ(fault("product_id LIKE 'x%'").find("Upper and lower"), std::string::npos);
  EXPECT_EQ(cells_of(ask("crosstab", {{"down", "product_id"}, {"count", "sales"}}, daybook).tables.front()),
            (Cells{{"P1", "1.50"}, {"Total", "1.50"}}));
}

}  // namespace
}  // namespace pear::test
