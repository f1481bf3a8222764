// crosstab compared with SQL over the exported lines, and with a slow twin for what SQL cannot compute in one
// statement.
#include <algorithm>
#include <map>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "daybook/columns/derived_columns.hpp"
#include "expression/rows/line_view.hpp"
#include "questions/crosstab/cells_by_place.hpp"
#include "support/asking.hpp"
#include "support/results.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

template <class T>
const T& any_of(const std::vector<T>& values) {
  return values[static_cast<std::size_t>(pick(0, static_cast<int>(values.size()) - 1))];
}

/// A figure, and the same in SQL, in units of Decimal; `whole` for counts, `money` for two decimals.
struct FigurePair {
  std::string ours, sql;
  enum class Kind { count, money, number } kind;
};

const std::vector<FigurePair>& figure_pairs() {
  using Kind = FigurePair::Kind;
  static const std::vector<FigurePair> kPairs = {
      {"sum(amount)", "coalesce(sum(amount_u), 0)", Kind::money},
      {"sum(quantity)", "coalesce(sum(quantity_u), 0)", Kind::number},
      {"sum(margin)", "coalesce(sum(margin_u), 0)", Kind::money},
      {"lines", "count(*) * 10000", Kind::count},
      {"count(note)", "count(note) * 10000", Kind::count},
      {"customers", "count(distinct customer_id) * 10000", Kind::count},
      {"orders", "count(distinct case when not is_return then customer_id || '|' || order_id end) * 10000",
       Kind::count},
      {"products", "count(distinct product_id) * 10000", Kind::count},
      {"count(distinct category)", "count(distinct category) * 10000", Kind::count},
      {"count(distinct product_id) filter (where quantity > 1)",
       "count(distinct product_id) filter (where quantity > 1) * 10000", Kind::count},
      {"avg(amount)", "cast(round(avg(amount_u)) as integer)", Kind::money},
      {"min(quantity)", "min(quantity_u)", Kind::number},
      {"max(amount) - min(amount)", "max(amount_u) - min(amount_u)", Kind::money},
      {"sum(amount) filter (where channel = 'web')",
       "coalesce(sum(amount_u) filter (where channel = 'web'), 0)", Kind::money},
      {"sum(case when region = 'North' then quantity else 0 end)",
       "coalesce(sum(case when region = 'North' then quantity_u else 0 end), 0)", Kind::number}};
  return kPairs;
}

std::string cell(const FigurePair& figure, const std::string& units) {
  if (units.empty()) return "";
  const Decimal value = Decimal::from_units(std::stoll(units));
  if (figure.kind == FigurePair::Kind::count) return std::to_string(value.units() / Decimal::kScale);
  return value.to_text(figure.kind == FigurePair::Kind::money ? 2 : 0);
}

/// Several different ones of these, in any order.
std::vector<std::string> some_of(std::vector<std::string> names, int fewest, int most) {
  std::vector<std::string> some;
  for (int wanted = pick(fewest, most); wanted > 0 && !names.empty(); --wanted) {
    const auto at = pick(0, static_cast<int>(names.size()) - 1);
    some.push_back(names[static_cast<std::size_t>(at)]);
    names.erase(names.begin() + at);
  }
  return some;
}

std::string joined(const std::vector<std::string>& parts, const std::string& separator) {
  std::string text;
  for (const std::string& part : parts) text += (text.empty() ? "" : separator) + part;
  return text;
}

/// "a / b" of the first columns of a row, "(empty)" for NULL, "Total" if there are fewer than the keys.
std::string place(const std::vector<std::string>& row, std::size_t from, std::size_t depth,
                  std::size_t keys) {
  std::vector<std::string> labels;
  for (std::size_t i = 0; i < depth; ++i) labels.push_back(row[from + i].empty() ? "(empty)" : row[from + i]);
  if (depth < keys) labels.emplace_back("Total");
  return joined(labels, " / ");
}

struct RandomCrosstab {
  std::vector<std::string> down, across;
  FigurePair first, second;
  std::string where;
};

RandomCrosstab random_crosstab() {
  const std::vector<std::string> keys = {"region",      "channel",    "category", "note",
                                         "customer_id", "product_id", "weekday"};
  const std::vector<std::string> conditions = {"",
                                               "quantity > 1",
                                               "region = 'North' and channel = 'web'",
                                               "category in ('dye', 'kit') or amount > 10",
                                               "region is null and quantity <> 0",
                                               "not (channel = 'web') and category = 'yarn'",
                                               "amount + quantity > 20 and year = 2024",
                                               "customer_id like '%1' or note = 'gift'"};
  RandomCrosstab random;
  random.down = some_of(keys, 1, 2);
  const bool id_first = random.down.front().ends_with("_id");  // what follows an id may be its label
  if (id_first) std::reverse(random.down.begin(), random.down.end());
  std::vector<std::string> rest;
  for (const std::string& key : keys) {
    if (std::find(random.down.begin(), random.down.end(), key) == random.down.end()) rest.push_back(key);
  }
  random.across = some_of(rest, 0, 2);
  random.first = any_of(figure_pairs());
  random.second = any_of(figure_pairs());
  random.where = any_of(conditions);
  return random;
}

/// The SQL values for the cells of one pair of depths.
void add_from_sql(const LinesInSql& sql, const RandomCrosstab& random, std::size_t a, std::size_t b,
                  std::map<std::string, std::string>& cells) {
  std::vector<std::string> keys(random.down.begin(), random.down.begin() + static_cast<std::ptrdiff_t>(a));
  keys.insert(keys.end(), random.across.begin(), random.across.begin() + static_cast<std::ptrdiff_t>(b));
  const std::string list = joined(keys, ", ");
  const std::string statement = fmt::format(
      "SELECT {}{}{}, {} FROM lines{}{}", list, list.empty() ? "" : ", ", random.first.sql, random.second.sql,
      random.where.empty() ? "" : " WHERE " + random.where, list.empty() ? "" : " GROUP BY " + list);
  for (const auto& row : sql.ask(statement)) {
    const std::string down = place(row, 0, a, random.down.size());
    const std::string across = place(row, a, b, random.across.size());
    const std::string lead = down + " | " + across + (across.empty() ? "" : " ");
    cells[lead + "first"] = cell(random.first, row[a + b]);
    cells[lead + "second"] = cell(random.second, row[a + b + 1]);
  }
}

RC_GTEST_PROP(Crosstab, EqualsSqlInCellsAndTotals, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook::completed(daybook, {"weekday", "year", "cost", "margin"}));
  const RandomCrosstab random = random_crosstab();
  analysis::OptionValues options = {
      {"down", joined(random.down, ",")},
      {"count", fmt::format("{} as first, {} as second", random.first.ours, random.second.ours)},
      {"empty", "blank"}};
  if (!random.across.empty()) options.emplace_back("across", joined(random.across, ","));
  if (!random.where.empty()) options.emplace_back("where", random.where);
  RC_LOG(fmt::format("{} / {} / {} / {} where {}", options[0].second, joined(random.across, ","),
                     random.first.ours, random.second.ours, random.where));
  std::map<std::string, std::string> expected;
  for (std::size_t a = 0; a <= random.down.size(); ++a) {
    for (std::size_t b = 0; b <= random.across.size(); ++b) add_from_sql(sql, random, a, b, expected);
  }
  const auto result = try_to_ask("crosstab", options, daybook);
  if (!result) {  // the selection contained no line
    RC_ASSERT(sql.ask("SELECT 1 FROM lines WHERE " + random.where).empty());
    return;
  }
  for (const result::Check& check : result->checks) RC_ASSERT(check.holds);
  for (const auto& [where, value] : cells_by_place(result->tables[0], random.down.size())) {
    const auto found = expected.find(where);
    if (found == expected.end()) {
      RC_ASSERT(value.empty());  // there is no line
    } else {
      RC_LOG(where);
      RC_ASSERT(value == found->second);
      expected.erase(found);
    }
  }
  RC_ASSERT(expected.empty());
}

// The twin: cells as piles of lines on a table, each figure computed by hand.

struct Heap {
  std::vector<std::size_t> rows;
};

class Twin {
 public:
  explicit Twin(daybook::Daybook daybook) : daybook_(std::move(daybook)), lines_(daybook_) {}

  [[nodiscard]] std::string text(const std::string& column, std::size_t row) const {
    const expression::ViewColumn& shown = lines_.rows().columns[lines_.rows().find(column)];
    return daybook::value_text(*shown.values, shown.member(row));
  }
  [[nodiscard]] std::map<std::string, Heap> heaps(const std::string& column) const {
    std::map<std::string, Heap> heaps;
    for (std::size_t row = 0; row < lines_.rows().rows; ++row) heaps[text(column, row)].rows.push_back(row);
    return heaps;
  }
  /// The values of a column, one for each distinct owner ("customer_id"), without the empty ones, in units.
  [[nodiscard]] std::vector<std::int64_t> once_each(const Heap& heap, const std::string& column,
                                                    const std::vector<std::string>& owner) const {
    std::map<std::string, std::int64_t> values;
    for (const std::size_t row : heap.rows) {
      std::string key;
      for (const std::string& part : owner) key += text(part, row) + "|";
      if (owner.empty()) key = std::to_string(row);
      const std::string value = text(column, row);
      if (!value.empty()) values[key] = Decimal::parse(value)->units();
    }
    std::vector<std::int64_t> all;
    for (const auto& [key, value] : values) all.push_back(value);
    std::sort(all.begin(), all.end());
    return all;
  }

 private:
  daybook::Daybook daybook_;
  expression::LineView lines_;
};

std::string total(const std::vector<std::int64_t>& values) {
  std::int64_t sum = 0;
  for (const std::int64_t value : values) sum += value;
  return Decimal::from_units(sum).to_text();
}

std::string middle(const std::vector<std::int64_t>& values, int places) {
  if (values.empty()) return "";
  const std::int64_t twice = values[(values.size() - 1) / 2] + values[values.size() / 2];
  return Decimal::from_units((twice + (twice < 0 ? -1 : 1)) / 2).to_text(places);
}

RC_GTEST_PROP(Crosstab, CountsEachMemberOnceAtItsLevel, ()) {
  const daybook::Daybook daybook = random_daybook();
  const Twin twin(daybook::completed(daybook, {"month"}));
  const std::string key =
      any_of(std::vector<std::string>{"region", "channel", "category", "note", "product_id", "month"});
  const result::Result result =
      ask("crosstab",
          {{"down", key},
           {"count",
            "sum(credit_limit) as limits, median(credit_limit) as middle, sum(unit_cost) as costs, "
            "median(amount) as price, sum(count(*) over (partition by customer_id, product_id)) as pairs"}},
          daybook);
  const result::Table& table = result.tables.front();
  std::map<std::string, Heap> heaps = twin.heaps(key);
  std::size_t found = 0;
  for (std::size_t row = 0; row + 1 < table.rows(); ++row) {  // without the total
    std::string label = result::cell_text(table.columns[0], row);
    if (label == "(empty)") label.clear();
    if (key == "month" && !heaps.contains(label)) continue;  // between two others
    ++found;
    const Heap& heap = heaps.at(label);
    const auto limits = twin.once_each(heap, "credit_limit", {"customer_id"});
    RC_ASSERT(result::cell_text(table.columns[1], row) == total(limits));
    RC_ASSERT(result::cell_text(table.columns[2], row) == middle(limits, 0));
    const auto costs = twin.once_each(heap, "unit_cost", {"product_id"});
    RC_ASSERT(Decimal::parse(result::cell_text(table.columns[3], row))->to_text() == total(costs));
    RC_ASSERT(result::cell_text(table.columns[4], row) == middle(twin.once_each(heap, "amount", {}), 2));
    std::set<std::string> seen;
    std::int64_t pairs = 0;
    for (const std::size_t line : heap.rows) {
      if (!seen.insert(twin.text("customer_id", line) + "|" + twin.text("product_id", line)).second) continue;
      for (std::size_t other = 0; other < daybook.lines(); ++other)
        pairs += twin.text("customer_id", other) == twin.text("customer_id", line) &&
                 twin.text("product_id", other) == twin.text("product_id", line);
    }
    RC_ASSERT(result::cell_text(table.columns[5], row) == std::to_string(pairs));
  }
  RC_ASSERT(found == heaps.size());
}

// Traps of the design's section 9.

const Sales kFew = {{"A1", "2023-01-05", "C1", "P1", 1, 1000},  {"A1", "2023-01-05", "C1", "P2", 1, 2000},
                    {"A2", "2023-03-05", "C1", "P1", 3, 900},   {"A3", "2024-01-09", "C2", "P1", 1, 1000},
                    {"A4", "2024-01-10", "C2", "P2", 10, 1500}, {"A1", "2024-02-01", "C3", "P1", -1, 1000}};

Cells rows(const analysis::OptionValues& options) {
  return cells_of(ask("crosstab", options, kFew).tables[0]);
}

TEST(Trap, RowsAreNotCountedInsteadOfDistinctValues) {
  EXPECT_EQ(rows({{"down", "year"}, {"count", "customers, orders, lines"}}),
            (Cells{{"2023", "1", "2", "3"}, {"2024", "2", "2", "3"}, {"Total", "3", "4", "6"}}));
}

TEST(Trap, AnAverageIsNotAnAverageOfAverages) {
  EXPECT_EQ(
      rows({{"down", "product_id"}, {"count", "sum(amount) / sum(quantity) as price, avg(amount) as mean"}}),
      (Cells{{"P1", "9.25", "9.25"}, {"P2", "15.4545", "85.00"}, {"Total", "13.80", "34.50"}}));
}

TEST(Trap, ACustomersTotalIsNotAddedUpOncePerLine) {
  EXPECT_EQ(rows({{"down", "year"}, {"count", "sum(customer_amount) as all_time"}}),
            (Cells{{"2023", "57.00"}, {"2024", "150.00"}, {"Total", "207.00"}}));
}

TEST(Trap, JanuariesOfTwoYearsAreTwoMonths) {
  const Cells months = rows({{"down", "month"}, {"count", "lines"}});
  EXPECT_EQ(months[0], (std::vector<std::string>{"2023-01", "2"}));
  EXPECT_EQ(months[12], (std::vector<std::string>{"2024-01", "2"}));
}

TEST(Trap, AFilterReachesEveryFigureAndHistoryStaysWhole) {
  const result::Result result =
      ask("crosstab", {{"down", "first_year"}, {"count", "customers, orders"}, {"from", "2023-02-01"}}, kFew);
  EXPECT_EQ(cells_of(result.tables[0]),
            (Cells{{"2023", "1", "1"}, {"2024", "1", "2"}, {"(empty)", "1", "0"}, {"Total", "3", "3"}}));
  EXPECT_EQ(result.population.lines, 4U);
  EXPECT_EQ(result.whole->lines, 6U);
}

TEST(Trap, ABlankCellIsNeitherZeroNorMissing) {
  const analysis::OptionValues options = {{"down", "product_id"},
                                          {"across", "year"},
                                          {"where", "customer_id = 'C1' or product_id = 'P2'"},
                                          {"count", "sum(amount) as sales, avg(amount) as mean"}};
  analysis::OptionValues blank = options;
  blank.emplace_back("empty", "blank");
  EXPECT_EQ(rows(options)[0],
            (std::vector<std::string>{"P1", "37.00", "18.50", "0.00", "", "37.00", "18.50"}));
  EXPECT_EQ(rows(blank)[0], (std::vector<std::string>{"P1", "37.00", "18.50", "", "", "37.00", "18.50"}));
}

TEST(Trap, EveryTableDescribesItsColumns) {
  const result::Table table = ask("crosstab", {{"down", "year"}, {"count", "sum(amount)"}}, kFew).tables[0];
  EXPECT_EQ(table.columns[1].name, "sum(amount)");
  EXPECT_EQ(table.columns[1].description, "sum(amount)");
}

TEST(Trap, AFigureWithTooManyMarksShowsTheLargestAndSaysSo) {
  Sales sales;
  for (int i = 1; i <= 45; ++i)
    sales.push_back({"A" + std::to_string(i), "2024-01-01", "C1", "P" + std::to_string(i), 1, 100 * i});
  const result::Figure figure = ask("crosstab", {{"down", "product_id"}}, sales).figures.front();
  EXPECT_EQ(figure.marks.rows(), 30U);
  EXPECT_EQ(result::cell_text(figure.marks.columns[0], 0), "P45");
  EXPECT_EQ(result::cell_text(figure.marks.columns[0], 29), "other (16)");
  EXPECT_EQ(result::cell_text(figure.marks.columns[1], 29), "136.00");
  EXPECT_EQ(figure.subtitle, "sales by product_id; the 29 largest of 45, the rest as other; 1 customer");
}

// Options.

TEST(Crosstab, TopCombinesTheRestFromItsLines) {
  EXPECT_EQ(rows({{"down", "customer_id"}, {"count", "sum(amount) as sales, products"}, {"keep", "1"}}),
            (Cells{{"C2", "160.00", "2"}, {"other (2)", "47.00", "2"}, {"Total", "207.00", "2"}}));
}

TEST(Crosstab, SharesAndRunningTotals) {
  EXPECT_EQ(
      rows({{"down", "year,product_id"}, {"count", "lines"}, {"share", "parent,all"}, {"running", "down"}}),
      (Cells{{"2023", "P1", "2", "0.666667", "0.333333", "2", "0.666667"},
             {"2023", "P2", "1", "0.333333", "0.166667", "3", "1.000000"},
             {"2023", "Total", "3", "0.500000", "0.500000", "3", "0.500000"},
             {"2024", "P1", "2", "0.666667", "0.333333", "2", "0.666667"},
             {"2024", "P2", "1", "0.333333", "0.166667", "3", "1.000000"},
             {"2024", "Total", "3", "0.500000", "0.500000", "6", "1.000000"},
             {"Total", "", "6", "1.000000", "1.000000", "", ""}}));
}

TEST(Crosstab, HavingSortLimitAndOffset) {
  const analysis::OptionValues options = {{"down", "customer_id"}, {"count", "sum(amount) as sales"}};
  const auto with = [&](analysis::OptionValues more) {
    more.insert(more.end(), options.begin(), options.end());
    return rows(more);
  };
  EXPECT_EQ(with({{"sort", "sales desc"}}),
            (Cells{{"C2", "160.00"}, {"C1", "57.00"}, {"C3", "-10.00"}, {"Total", "207.00"}}));
  EXPECT_EQ(with({{"having", "sales > 0 and orders > 1"}, {"sort", "customer_id desc"}}),
            (Cells{{"C2", "160.00"}, {"C1", "57.00"}, {"Total", "207.00"}}));
  EXPECT_EQ(with({{"limit", "1"}, {"offset", "1"}}), (Cells{{"C2", "160.00"}, {"Total", "207.00"}}));
}

TEST(Crosstab, DetailsListTheLinesOfACell) {
  const result::Result result = ask(
      "crosstab", {{"down", "product_id"}, {"across", "year"}, {"details", "PRODUCT_ID=P1,year=2023"}}, kFew);
  const Cells lines = cells_of(result.tables[2]);
  ASSERT_EQ(lines.size(), 2U);
  EXPECT_EQ(lines[1].front(), "A2");
  EXPECT_EQ(result.checks.back().statement, "sales of the listed 2 lines equals that of the cell");
  EXPECT_TRUE(result.checks.back().holds);
}

TEST(Crosstab, AcceptsHeadersAsColumnNames) {
  EXPECT_EQ(rows({{"down", "\"Product ID\" as product, Year"}, {"count", "sum(Amount) as sales"}}),
            rows({{"down", "product_id as product, year as Year"}, {"count", "sum(amount) as sales"}}));
}

TEST(Crosstab, RejectsWrongOptionsByName) {
  const auto fault = [](const analysis::OptionValues& options) {
    const auto result = try_to_ask("crosstab", options, build(kFew).daybook);
    return result ? std::string() : result.error().message;
  };
  EXPECT_EQ(fault({}), "crosstab needs --down or --across: pear-thread crosstab --down region --across year");
  EXPECT_EQ(fault({{"down", "yeer"}}),
            "--down: there is no column \"yeer\". Did you mean \"year\"? (column 1)");
  EXPECT_EQ(fault({{"down", "year"}, {"count", "sum(product_id)"}}),
            "--count: SUM needs a number, but \"product_id\" is text (column 5)");
  EXPECT_EQ(fault({{"down", "year"}, {"count", "amount"}}),
            "--count: \"amount\" has many values in a cell: write sum(amount), max(amount) or another "
            "aggregate, or use it in --down or --across (column 1)");
  EXPECT_EQ(fault({{"down", "sum(amount)"}}),
            "--down: \"sum(amount)\" is an aggregate of many lines, but here lines are grouped. Give it OVER "
            "(PARTITION BY ...).");
  EXPECT_EQ(fault({{"down", "year"}, {"details", "year=2022"}}),
            "--details: no year is \"2022\". Did you mean \"2023\"?");
  EXPECT_EQ(fault({{"down", "year"}, {"where", "product_id = 'P7'"}}).substr(0, 59),
            "the selection (product_id = 'P7') contains none of the 6 li");
}

}  // namespace
}  // namespace pear::test
