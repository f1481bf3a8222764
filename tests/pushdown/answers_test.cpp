// Questions asked of a database give the same results as those of the daybook, for random shops and options.
#include <algorithm>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "result/cell_text.hpp"
#include "support/asking.hpp"
#include "support/made_up_warehouse.hpp"

namespace pear::test {
namespace {

std::string one_of(const std::vector<std::string>& texts) {
  return texts[static_cast<std::size_t>(pick(0, static_cast<int>(texts.size()) - 1))];
}

std::string some_of(const std::vector<std::string>& texts, int most) {
  std::string list;
  for (int i = pick(1, most); i > 0; --i) {
    const std::string text = one_of(texts);
    if (list.find(text) == std::string::npos) list += (list.empty() ? "" : ", ") + text;
  }
  return list;
}

const std::vector<std::string>& key_expressions() {
  static const std::vector<std::string> kKeys = {
      "region",
      "category",
      "channel",
      "note",
      "product_id",
      "customer_id",
      "month",
      "year",
      "quarter",
      "weekday",
      "week",
      "first_month",
      "amount > 10 as large",
      "case when quantity > 1 then 'many' else note end as how",
      "extract(month from order_date) as m",
      "upper(region) as r",
      "customer_orders",
      "coalesce(category, 'none') as c",
      "order_date",
      "round(amount, 0) as whole",
      "substring(product_id from 2 for 1) as p",
      "char_length(note) as length",
      "is_return",
      "customer_products",
      "sum(amount) over (partition by customer_id) > 50 as rich",
      "count(distinct order_id) over (partition by product_id) as n"};
  return kKeys;
}

/// Every function and operator that lines can be grouped by.
const std::vector<std::string>& function_expressions() {
  static const std::vector<std::string> kFunctions = {
      "floor(amount / 3)",
      "ceiling(amount * 0.333)",
      "abs(amount)",
      "round(amount * 1.05, 1)",
      "- quantity",
      "amount / 7",
      "unit_price * 0.0005",
      "trim(' ' || note || ' ')",
      "substring(region from 0 for 3)",
      "substring(region from 3)",
      "substring(region from -2 for 4)",
      "nullif(category, 'dye')",
      "nullif(1, quantity)",
      "coalesce(note, category, 'none')",
      "cast(quantity as varchar(10))",
      "cast(amount * 1.5 as varchar(20))",
      "cast(order_date as varchar(10))",
      "cast(substring(product_id from 2) as numeric) * 2",
      "cast('2024-02-29' as date) - order_date",
      "extract(week from order_date)",
      "extract(day from order_date)",
      "extract(quarter from order_date)",
      "order_date + interval '30' day",
      "order_date - interval '1' day > date '2024-03-01'",
      "region || '/' || channel",
      "note like '%f_'",
      "category in ('dye', region, 'yarn')",
      "not (region = 'North' or note is null)",
      "lower(upper(region))",
      "region < 'North'",
      "char_length(region || category)",
      "case when amount > 20 then 'a' when quantity is null then 'b' else null end",
      "current_date - order_date"};
  return kFunctions;
}

const std::vector<std::string>& figure_expressions() {
  static const std::vector<std::string> kFigures = {
      "sum(amount) as sales",
      "orders",
      "customers",
      "products",
      "lines",
      "avg(amount) as mean",
      "sum(amount) / orders as per_order",
      "median(amount) as middle",
      "percentile_cont(0.3) within group (order by amount) as low",
      "max(order_date) as last",
      "min(note) as first_note",
      "count(distinct region) as regions",
      "avg(credit_limit) as credit",
      "sum(list_price) as list",
      "count(channel) as channels",
      "sum(amount) filter (where category = 'dye') as dye",
      "count(distinct customer_id) filter (where quantity > 1) as with_many",
      "avg(unit_cost) as unit",
      "sum(credit_limit * 2) as twice",
      "sum(quantity * unit_price) as gross",
      "sum(margin) as margin",
      "sum(amount / (quantity + 7)) as odd",
      "median(credit_limit) as m",
      "max(category) as c",
      "count(distinct amount) as amounts",
      "avg(amount - customer_amount) as difference"};
  return kFigures;
}

void add_selection(analysis::OptionValues& options) {
  static const std::vector<std::string> kConditions = {
      "region = 'North'",
      "amount > 5",
      "note is null",
      "category in ('dye', 'kit')",
      "order_date > first_order_date",
      "sum(amount) over (partition by customer_id) > 20",
      "avg(amount) over (partition by product_id) > 10",
      "not is_return",
      "category like 'd%' or region <> 'West'",
      "margin < 0",
      "lower(region) = 'east' and channel = 'web'",
      "order_date < date '2024-03-01'",
      "order_date - first_order_date < 30",
      "max(order_date) over (partition by region) = order_date"};
  if (pick(0, 2) == 0) options.emplace_back("where", one_of(kConditions));
  if (pick(0, 5) == 0) options.emplace_back("from", "2024-02-01");
  if (pick(0, 5) == 0) options.emplace_back("returns", "ignore");
  if (pick(0, 7) == 0) options.emplace_back("quiet-since", "2024-05-01");
  if (pick(0, 5) == 0) options.emplace_back("with", "region");
}

using AsText = std::string (*)(const OrError<result::Result>&);

/// The daybook and every database give the same.
void expect_same(const std::string& question, const analysis::OptionValues& options,
                 AsText as_text = test::as_text) {
  const daybook::Daybook daybook = random_daybook();
  const std::string ours = as_text(try_to_ask(question, options, daybook, "EUR"));
  RC_CLASSIFY(ours.starts_with("error"), "an error");
  for (const TestDatabase& database : test_databases()) {
    const MadeUpWarehouse warehouse(daybook, database);
    const auto answer = warehouse.try_to_ask(question, options);
    // The standard leaves open how texts are sorted and trimmed, and how a daybook does it is not always the
    // same.
    if (!answer && !database.reader.empty() &&
        answer.error().message.find("reached by ODBC") != std::string::npos)
      continue;
    std::string asked = question;
    for (const auto& [name, value] : options) asked += " --" + name + " \"" + value + "\"";
    if (as_text(answer) != ours)
      RC_FAIL(asked + "\n--- daybook\n" + ours + "--- database\n" + as_text(answer) +
              (answer ? "" : answer.error().message));
  }
}

RC_GTEST_PROP(AnswersInDatabases, OfConcentrationAreThoseOfTheDaybook, ()) {
  analysis::OptionValues options;
  if (pick(0, 2) > 0) options.emplace_back("per", one_of(key_expressions()));
  if (pick(0, 2) > 0) options.emplace_back("count", one_of(figure_expressions()));
  if (pick(0, 2) == 0) options.emplace_back("by", some_of(key_expressions(), 2));
  if (pick(0, 4) == 0) options.emplace_back("compare", one_of(key_expressions()));
  add_selection(options);
  expect_same("concentration", options);
}

RC_GTEST_PROP(AnswersInDatabases, OfFrequencyAreThoseOfTheDaybook, ()) {
  analysis::OptionValues options;
  if (pick(0, 1) == 0) options.emplace_back("within", one_of({"1", "14", "60", "200"}));
  if (pick(0, 1) == 0 && !options.empty()) options.emplace_back("include-incomplete", "true");
  if (pick(0, 2) == 0) options.emplace_back("bands", one_of({"1,2-3,4+", "1-2,5-9", "1-100"}));
  if (pick(0, 2) == 0) options.emplace_back("count", one_of(figure_expressions()));
  if (pick(0, 1) == 0)
    options.emplace_back(
        "by", some_of({"region", "first_month", "customer_orders", "credit_limit > 20 as rich", "month"}, 2));
  if (pick(0, 1) == 0) options.emplace_back("list", "true");
  if (pick(0, 3) == 0) options.emplace_back("horizon", one_of({"5", "30"}));
  add_selection(options);
  expect_same("frequency", options);
}

RC_GTEST_PROP(AnswersInDatabases, OfFirstAreThoseOfTheDaybook, ()) {
  analysis::OptionValues options;
  if (pick(0, 1) == 0) options.emplace_back("per", one_of(key_expressions()));
  if (pick(0, 2) == 0)
    options.emplace_back("by", some_of({"region", "first_month", "customer_orders", "channel"}, 2));
  if (pick(0, 1) == 0) options.emplace_back("follow", one_of({"2", "14", "60", "400"}));
  if (pick(0, 1) == 0) options.emplace_back("run-in", one_of({"0", "1", "30", "1000"}));
  if (pick(0, 2) > 0) options.emplace_back("at-least", "1");
  add_selection(options);
  expect_same("first", options);
}

RC_GTEST_PROP(AnswersInDatabases, OfRetentionAreThoseOfTheDaybook, ()) {
  analysis::OptionValues options;
  if (pick(0, 1) == 0)
    options.emplace_back("cohort",
                         one_of({"month", "quarter", "year", "region", "customer_orders", "channel"}));
  if (pick(0, 2) > 0)
    options.emplace_back("period", one_of({"week", "month", "quarter", "20 days", "1 day", "2 weeks"}));
  if (pick(0, 2) == 0) options.emplace_back("calendar", "true");
  add_selection(options);
  expect_same("retention", options);
}

RC_GTEST_PROP(AnswersInDatabases, OfTogetherAreThoseOfTheDaybook, ()) {
  analysis::OptionValues options = {{"size", "2"}, {"largest", "2"}};
  if (pick(0, 1) == 0) options.emplace_back("basket", one_of({"order", "day", "customer"}));
  if (pick(0, 2) == 0)
    options.emplace_back(
        "count", one_of({"category", "upper(category) as c", "substring(product_id from 2 for 1) as p",
                         "list_price", "product_id", "region"}));
  if (pick(0, 1) == 0) options.emplace_back("support", one_of({"1 baskets", "2 baskets", "10%"}));
  if (pick(0, 3) == 0) options.emplace_back("product", one_of({"P1", "P2", "P3", "dye"}));
  if (pick(0, 3) == 0) options.emplace_back("lift", "0.9");
  if (pick(0, 3) == 0) options.emplace_back("confidence", "30%");
  if (pick(0, 7) == 0) options.emplace_back("at-most", "1");
  add_selection(options);
  expect_same("together", options);
}

/// The rows of the tables without the columns of tests of direction, which a database does not compute;
/// without the curves of the pairs that they choose. No answer at all, if there is no pair or the options do
/// not fit the selection: of several such faults, a database reports another one first.
std::string sequence_without_tests(const OrError<result::Result>& result) {
  if (!result && (result.error().kind == ErrorKind::usage || result.error().kind == ErrorKind::data))
    return "nothing";
  if (!result) return as_text(result);
  if (result->tables[1].rows() == 0) return "nothing";
  static const std::set<std::string> kTests = {"expected_one_way", "direction", "p_value", "q_value"};
  std::string text;
  for (std::size_t i = 0; i < 2; ++i) {
    const result::Table& table = result->tables[i];
    std::vector<std::string> rows;
    for (std::size_t row = 0; row < table.rows(); ++row) {
      rows.emplace_back();
      for (const result::TableColumn& column : table.columns)
        if (!kTests.contains(column.name))
          rows.back() += column.name + "=" + result::cell_text(column, row) + ",";
    }
    std::sort(rows.begin(), rows.end());
    for (const std::string& row : rows) text += row + "\n";
  }
  return text;
}

RC_GTEST_PROP(AnswersInDatabases, OfSequenceAreThoseOfTheDaybook, ()) {
  analysis::OptionValues options = {{"longest", "2"}};
  if (pick(0, 2) == 0)
    options.emplace_back(
        "count", one_of({"category", "upper(category) as c", "substring(product_id from 2 for 1) as p",
                         "list_price", "product_id", "region", "month"}));
  options.emplace_back("support", one_of({"1 customers", "2 customers", "30%"}));
  if (pick(0, 2) == 0) options.emplace_back("min-gap", one_of({"1", "10", "40"}));
  if (pick(0, 2) == 0) options.emplace_back("max-gap", one_of({"40", "90"}));
  if (pick(0, 5) == 0) options.emplace_back("span", one_of({"40", "60"}));
  if (pick(0, 3) == 0)
    options.emplace_back(one_of({"product", "starts-with", "ends-with"}), one_of({"P1", "P2", "P3", "dye"}));
  if (pick(0, 9) == 0) options.emplace_back("at-most", "1");
  add_selection(options);
  expect_same("sequence", options, sequence_without_tests);
}

/// Without the pull of products, which sorts them, and is not computed in a database.
std::string without_pull(const OrError<result::Result>& result) {
  if (!result) return as_text(result);
  result::Result rest = *result;
  rest.headline.resize(1);
  rest.tables.pop_back();
  std::erase_if(rest.notes, [](const std::string& note) { return note.find("pull") != std::string::npos; });
  std::vector<std::string> rows;
  const result::Table& items = result->tables.back();
  for (std::size_t row = 0; row < items.rows(); ++row) {
    rows.emplace_back();
    for (const result::TableColumn& column : items.columns)
      if (!column.name.starts_with("pull") && column.name != "q_value")
        rows.back() += column.name + "=" + result::cell_text(column, row) + ",";
  }
  std::sort(rows.begin(), rows.end());
  std::string text = as_text(rest);
  for (const std::string& row : rows) text += row + "\n";
  return text;
}

RC_GTEST_PROP(AnswersInDatabases, OfBasketsAreThoseOfTheDaybook, ()) {
  analysis::OptionValues options;
  if (pick(0, 1) == 0) options.emplace_back("basket", one_of({"order", "day", "customer"}));
  if (pick(0, 2) == 0)
    options.emplace_back(
        "count", one_of({"category", "substring(product_id from 2 for 1) as p", "list_price", "region"}));
  if (pick(0, 2) == 0) options.emplace_back("discount", "10%");
  add_selection(options);
  expect_same("baskets", options, without_pull);
}

/// The tables without the columns of tests, which a database does not compute, and the months, if there are
/// any; and with the pairs, if it lists them.
template <bool kWithPairs>
std::string prices_without_tests(const OrError<result::Result>& result) {
  if (!result) return as_text(result);
  static const std::set<std::string> kTests = {
      "time_index", "expected_index", "unexplained", "volume_index",       "usual_index",   "compared_orders",
      "low_orders", "q_value",        "reason",      "orders_below_usual", "volume_q_value"};
  result::Result rest;
  rest.population = result->population;
  for (const result::Table& table : result->tables) {
    if (table.part.empty() && !kWithPairs) continue;
    rest.tables.push_back(table);
    std::erase_if(rest.tables.back().columns,
                  [](const result::TableColumn& column) { return kTests.contains(column.name); });
  }
  return as_text(rest);
}

RC_GTEST_PROP(AnswersInDatabases, OfPricesAreThoseOfTheDaybook, ()) {
  analysis::OptionValues options;
  if (pick(0, 1) == 0) options.emplace_back("against", one_of({"all", "others", "list"}));
  if (pick(0, 1) == 0) options.emplace_back("below", one_of({"50%", "90%", "100%", "300%"}));
  if (pick(0, 2) == 0) options.emplace_back("above", one_of({"10%", "80%", "110%"}));
  if (pick(0, 3) == 0) options.emplace_back("product", one_of({"P1", "P2", "P3", "dye"}));
  add_selection(options);
  const bool lists_pairs = std::any_of(options.begin(), options.end(), [](const auto& option) {
    return option.first == "below" || option.first == "above" || option.first == "product";
  });
  expect_same("prices", options, lists_pairs ? prices_without_tests<true> : prices_without_tests<false>);
}

RC_GTEST_PROP(AnswersInDatabases, OfDistinctAreThoseOfTheDaybook, ()) {
  analysis::OptionValues options;
  if (pick(0, 3) > 0) options.emplace_back("count", pick(0, 4) == 0 ? "order_id" : one_of(key_expressions()));
  if (pick(0, 2) > 0) options.emplace_back("per", some_of(key_expressions(), 2));
  if (pick(0, 1) == 0 && (options.empty() || options.front().second != "order_id"))
    options.emplace_back("list", "true");
  add_selection(options);
  expect_same("distinct", options);
}

RC_GTEST_PROP(AnswersInDatabases, OfFunctionsAreThoseOfTheDaybook, ()) {
  expect_same("distinct", {{"count", one_of(function_expressions())}, {"list", "true"}});
}

RC_GTEST_PROP(AnswersInDatabases, OfCrosstabAreThoseOfTheDaybook, ()) {
  analysis::OptionValues options;
  options.emplace_back("down", some_of(key_expressions(), 2));
  if (pick(0, 1) == 0) options.emplace_back("across", some_of(key_expressions(), 2));
  if (pick(0, 3) > 0) options.emplace_back("count", some_of(figure_expressions(), 3));
  if (pick(0, 4) == 0) options.emplace_back("keep", "1");
  if (pick(0, 4) == 0) options.emplace_back("share", "row");
  if (pick(0, 4) == 0) options.emplace_back("against", one_of({"parent", "all", "previous"}));
  if (pick(0, 4) == 0) options.emplace_back("sort", "orders desc");
  if (pick(0, 4) == 0) options.emplace_back("having", "lines > 1");
  add_selection(options);
  expect_same("crosstab", options);
}

}  // namespace
}  // namespace pear::test
