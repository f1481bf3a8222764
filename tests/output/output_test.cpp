#include <cmath>
#include <random>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <rapidcheck/gtest.h>

#include "output/charts/chart.hpp"
#include "output/charts/figure_writer.hpp"
#include "output/charts/plot.hpp"
#include "output/tables/csv_writer.hpp"
#include "output/tables/readable.hpp"
#include "output/tables/result_files.hpp"
#include "output/tables/terminal_writer.hpp"
#include "output/tables/xlsx_pattern.hpp"
#include "result/cell_text.hpp"
#include "support/drawing.hpp"
#include "support/random_shop.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

TextArray texts(const std::vector<std::string>& all) {
  TextArray array;
  for (const std::string& text : all) array.push_back(text);
  return array;
}

/// A result with every unit, empty cells, and text that is markup and commands to other programs.
result::Result sample(const std::string& text = "a,\"b\"") {
  result::Result result;
  result.question = "sample";
  result.headline = {"Two rows."};
  result.population = {2, 3, 4, 1, date_of(2024, 1, 2), date_of(2024, 3, 4), std::nullopt};
  result::Table table{"", "All units", "One of each.", {}};
  table.columns = {
      result::text_column("name", "Text.", texts({text, ""})),
      result::integer_column("count", result::Unit::count, "Count.", {1234567, result::kEmptyCell}),
      result::integer_column("days", result::Unit::days, "Days.", {0, result::kEmptyCell}),
      result::integer_column("date", result::Unit::date, "Date.",
                             {date_of(2024, 2, 29).days, result::kEmptyCell}),
      result::integer_column("money", result::Unit::money, "Money.", {-12345678, result::kEmptyCell}),
      result::share_column("share", "Share.", {1.0 / 3, std::nan("")})};
  result.tables.push_back(table);
  result::Figure figure;
  figure.title = "Bars of " + text;
  figure.subtitle = "under " + text;
  figure.marks.columns = {result::text_column("label", "", texts({text, "other"})),
                          result::share_column("value", "", {0.4, 0.6})};
  result::BarChart chart;
  chart.label = "label";
  chart.value = "value";
  chart.label_title = chart.value_title = text;
  figure.chart = chart;
  result.figures.push_back(figure);
  result.checks = {{"it adds up", true}};
  result.notes = {"One was left out."};
  return result;
}

/// An amount without returns is larger than the amount net of them: no part of it.
TEST(Population, APartIsNeverLargerThanItsWhole) {
  result::Population whole, part;
  whole.customers = part.customers = 2;
  whole.amount = Decimal::from_units(900'000);
  part.amount = Decimal::from_units(700'000);
  EXPECT_EQ(output::readable_population(part, whole, "EUR"),
            "2 customers, 0 orders, 0 lines, amount 70.00 of 90.00 EUR");
  part.amount = Decimal::from_units(1'000'000);
  EXPECT_EQ(output::readable_population(part, whole, "EUR"),
            "2 customers, 0 orders, 0 lines, amount 100.00 EUR (90.00 EUR in all lines)");
}

/// Columns of all units, stored and computed when they are read, with empty cells and numbers of any size.
result::Table random_table(std::size_t rows) {
  result::Table table{"", "Random", "", {}};
  std::mt19937_64 random(static_cast<unsigned>(pick(0, 1'000'000)));
  const auto pick = [&](int lowest, int highest) {
    return std::uniform_int_distribution(lowest, highest)(random);
  };
  const auto units = [&] {
    const auto large = static_cast<std::int64_t>(random());
    return pick(0, 9) == 0 ? result::kEmptyCell : large >> pick(0, 62);
  };
  const std::vector<std::string> texts = {"", "plain", "a,b", "\"quoted\"", "=1+1", "line\nfeed"};
  for (const result::Unit unit : {result::Unit::count, result::Unit::days, result::Unit::date,
                                  result::Unit::money, result::Unit::number}) {
    std::vector<std::int64_t> values;
    for (std::size_t row = 0; row < rows; ++row)
      values.push_back(unit == result::Unit::date ? pick(-700'000, 2'900'000) : units());
    table.columns.push_back(result::integer_column("stored", unit, "", values));
    table.columns.push_back(result::lazy_column(
        "computed", unit, "",
        result::computed<std::int64_t>(rows, [values](std::size_t row) { return values[row]; })));
  }
  std::vector<double> shares;
  TextArray names;
  for (std::size_t row = 0; row < rows; ++row) {
    shares.push_back(pick(0, 9) == 0 ? std::nan("") : pick(-50, 50) * std::pow(10.0, pick(-9, 3)));
    names.push_back(texts[static_cast<std::size_t>(pick(0, 5))]);
  }
  table.columns.push_back(result::share_column("share", "", shares));
  table.columns.push_back(result::probability_column("probability", "", shares));
  table.columns.push_back(result::text_column("name", "", names));
  const result::TableColumn by_member = table.columns.back();
  table.columns.push_back(result::seen_from(
      by_member, result::computed<std::uint32_t>(rows, [rows](std::size_t row) { return rows - 1 - row; })));
  table.columns.push_back(by_member);
  table.columns.back().values =
      result::computed<std::string>(rows, [names](std::size_t row) { return std::string(names[row]) + ";"; });
  return table;
}

TEST(Rows, SortByTextsThatAreComposedWhenTheyAreRead) {
  result::Table table{"", "Composed", "", {}};
  table.columns.push_back(result::text_column("reason", "", TextArray()));
  table.columns[0].values = result::computed<std::string>(
      4, [](std::size_t row) { return std::string("reason ") + std::to_string(row * 7 % 4); });
  EXPECT_EQ(result::row_order(table, {{0, false}}), (std::vector<std::uint32_t>{0, 3, 2, 1}));
}

/// Large tables are written in blocks, column by column: the same text as cell by cell.
RC_GTEST_PROP(Csv, IsTheSameAsCellByCell, ()) {
  const result::Table table = random_table(static_cast<std::size_t>(pick(1, 600)));
  const output::CsvStyle style{pick(0, 1) == 1 ? output::Formulas::keep : output::Formulas::as_text};
  std::string expected;
  for (const result::TableColumn& column : table.columns)
    expected += (expected.empty() ? "" : ",") + column.name;
  expected += '\n';
  for (std::size_t row = 0; row < table.rows(); ++row) {
    std::vector<std::string> fields;
    for (const result::TableColumn& column : table.columns) {
      fields.push_back(result::cell_text(column, row));
      if (column.unit == result::Unit::text) fields.back() = output::csv_text(fields.back(), style.formulas);
    }
    expected += output::csv_line({fields.begin(), fields.end()});
  }
  const TemporaryFolder folder;
  files::AtomicFile file = *files::AtomicFile::create(folder / "t.csv");
  std::size_t rows = 0;
  RC_ASSERT(output::write_csv(table, file, style, [&](std::size_t so_far) { rows = so_far; }).has_value());
  RC_ASSERT(file.commit().has_value());
  RC_ASSERT(rows == table.rows());
  RC_ASSERT(read_file(folder / "t.csv") == expected);
}

TEST(Csv, CellsAreExactAndQuotedWhereNeeded) {
  const TemporaryFolder folder;
  files::AtomicFile file = *files::AtomicFile::create(folder / "t.csv");
  ASSERT_TRUE(output::write_csv(sample().tables.front(), file));
  EXPECT_EQ(folder.list().find("t.csv"), 1U) << "hidden until it is committed";
  ASSERT_TRUE(file.commit());
  EXPECT_EQ(read_file(folder / "t.csv"),
            "name,count,days,date,money,share\n"
            "\"a,\"\"b\"\"\",1234567,0,2024-02-29,-1234.5678,0.333333\n"
            ",,,,,\n");
}

TEST(Workbook, PatternsShowAsManyPlacesAsAnyValueNeeds) {
  const auto pattern = [](result::Unit unit, std::vector<std::int64_t> units,
                          const std::string& currency = "", int places = -1) {
    result::TableColumn column = result::integer_column("x", unit, "", std::move(units));
    column.places = places;
    return output::cell_pattern(column, currency);
  };
  using enum result::Unit;
  EXPECT_EQ(pattern(number, {10'000, 20'000}), "#,##0");
  EXPECT_EQ(pattern(number, {10'000, 25'000}), "#,##0.00");
  EXPECT_EQ(pattern(number, {result::kEmptyCell, 25'000, 12'345, 10'000}), "#,##0.0000");
  EXPECT_EQ(pattern(number, {10'000, 12'345}, "", 1), "#,##0.0");
  EXPECT_EQ(pattern(money, {10'000}), "#,##0.00");
  EXPECT_EQ(pattern(money, {10'000}, "EUR"), "#,##0.00 \"EUR\"");
  EXPECT_EQ(pattern(money, {10'000}, "EUR", 0), "#,##0 \"EUR\"");
  EXPECT_EQ(pattern(money, {10'000}, "\"[x]"), "#,##0.00") << "no code of a currency";
  EXPECT_EQ(pattern(count, {1}), "#,##0");
  EXPECT_EQ(pattern(days, {1}), "#,##0");
  EXPECT_EQ(pattern(date, {1}), "yyyy-mm-dd");
}

TEST(AtomicFile, LeavesNoFileUnlessCommitted) {
  const TemporaryFolder folder;
  folder.write("t.csv", "old");
  {
    files::AtomicFile file = *files::AtomicFile::create(folder / "t.csv");
    ASSERT_TRUE(file.write("new"));
  }
  EXPECT_EQ(folder.list(), "t.csv");
  EXPECT_EQ(read_file(folder / "t.csv"), "old");
}

TEST(Terminal, ShowsTheMainColumnsAndReportsHiddenOnes) {
  EXPECT_EQ(output::render_result(sample("wool"), "all lines of shop.daybook", {"pear-out/sample.csv"},
                                  {50, false, 1}),
            "Two rows.\n\nPopulation  2 customers, 3 orders, 4 lines (1\n            return), 2024-01-02 to "
            "2024-03-04\nSelection   all lines of shop.daybook\n\nAll units\n  name      count  days  date   "
            "           money\n  wool  1,234,567     0  2024-02-29  -1,234.5678\n  ... 1 more row and the "
            "column share in\n  pear-out/sample.csv\n\nNote        One was left out.\n\n1 check passed: it "
            "adds up.\nWritten     pear-out/sample.csv\n");
}

TEST(Terminal, EmphasisOnlyOnRequest) {
  EXPECT_EQ(output::render_result(sample(), "", {}, {80, false, 1}).find('\x1b'), std::string::npos);
  EXPECT_NE(output::render_result(sample(), "", {}, {80, true, 1}).find("\x1b[1mTwo rows."),
            std::string::npos);
}

TEST(Readable, WidthsAreThoseOfATerminal) {
  EXPECT_EQ(output::display_width("äöü"), 3U);
  EXPECT_EQ(output::display_width("a\u0308"), 1U);
  EXPECT_EQ(output::display_width("糸"), 2U);
  EXPECT_EQ(output::cut_to_width("yarn and needles", 6), "yarn …");
  EXPECT_EQ(output::wrapped("one two three", 7), (std::vector<std::string>{"one two", "three"}));
}

TEST(Readable, SmallNegativeMoneyKeepsItsSign) {
  const result::TableColumn money =
      result::integer_column("money", result::Unit::money, "", {-5000, -12'340'000, 0});
  EXPECT_EQ(output::readable_cell(money, 0), "-0.50");
  EXPECT_EQ(output::readable_cell(money, 1), "-1,234.00");
  EXPECT_EQ(output::readable_cell(money, 2), "0.00");
}

TEST(Package, DescribesTheTablesAndKeepsThoseOfOthers) {
  const TemporaryFolder folder;
  const output::Trail trail{"pear-thread sample", "shop.daybook", "f00d", "all lines"};
  ASSERT_TRUE(output::write_result(sample(), trail, {folder.path(), "one", {}}));
  ASSERT_TRUE(output::write_result(sample(), trail, {folder.path(), "two", {}}));
  ASSERT_TRUE(output::write_result(sample(), trail, {folder.path(), "one", {}}));
  const auto package = nlohmann::json::parse(read_file(folder / "datapackage.json"));
  ASSERT_EQ(package["resources"].size(), 2U);
  EXPECT_EQ(package["resources"][0]["name"], "two");
  EXPECT_EQ(package["resources"][1]["path"], "one.csv");
  EXPECT_EQ(package["resources"][1]["schema"]["fields"][4]["unit"], "money");
  EXPECT_EQ(package["trails"]["one"]["daybook"]["fingerprint"], "f00d");
  EXPECT_EQ(package["trails"]["one"]["population"]["first_date"], "2024-01-02");
  EXPECT_EQ(package["trails"]["one"]["checks"][0]["holds"], true);
  EXPECT_EQ(folder.list(), "datapackage.json one.csv two.csv");
}

TEST(Package, DoesNotOverwriteAForeignFile) {
  const TemporaryFolder folder;
  folder.write("datapackage.json", "notes");
  const auto outcome = output::write_result(sample(), {}, {folder.path(), "one", {}});
  EXPECT_EQ(outcome.error().message, folder.path() +
                                         "/datapackage.json is there but is not a Data Package. Move it, or "
                                         "write to another folder with --out.");
  EXPECT_EQ(folder.list(), "datapackage.json");
}

TEST(Figures, TicksAreRound) {
  EXPECT_EQ(output::round_ticks(27.8), (std::vector<double>{0, 5, 10, 15, 20, 25, 30}));
  EXPECT_EQ(output::round_ticks(63), (std::vector<double>{0, 20, 40, 60, 80}));
  EXPECT_EQ(output::round_ticks(1), (std::vector<double>{0, 1}));
  EXPECT_EQ(output::round_ticks(0), (std::vector<double>{0, 1}));
  EXPECT_EQ(output::round_ticks(30, -12), (std::vector<double>{-20, -10, 0, 10, 20, 30}));
  EXPECT_EQ(output::round_ticks(0.35, 0, true).back(), 0.4);
}

/// Two marks and two series, with a negative value and an empty one.
result::Figure figure_of(result::Chart chart) {
  result::Figure figure;
  figure.title = "A finding";
  figure.subtitle = "of whom";
  figure.marks.columns = {
      result::text_column("region", "", texts({"alpha", "beta"})),
      result::integer_column("one", result::Unit::money, "", {50'000, -20'000}),
      result::integer_column("two", result::Unit::money, "", {70'000, result::kEmptyCell})};
  std::visit(
      [&](auto& drawn) {
        if constexpr (requires { drawn.label; }) drawn.label = "region";
        if constexpr (requires { drawn.axis; }) drawn.axis = result::LabelAxis::categories;
        if constexpr (requires { drawn.value_title; }) drawn.value_title = "sales";
        if constexpr (requires { drawn.series; }) drawn.series = {"one", "two"};
        if constexpr (requires { drawn.value; }) drawn.value = "one";
      },
      chart);
  figure.chart = std::move(chart);
  return figure;
}

TEST(Figures, EveryKindShowsItsLabelsAndSeriesAndIsReproducible) {
  const TemporaryFolder folder;
  for (const result::Chart& chart :
       {result::Chart(result::BarChart()), result::Chart(result::RankedBarChart()),
        result::Chart(result::StackedBarChart()), result::Chart(result::GroupedBarChart()),
        result::Chart(result::LineChart()), result::Chart(result::HeatMap())}) {
    const result::Figure figure = figure_of(chart);
    ASSERT_EQ(write_figure(figure, folder, "f", {output::FigureFormat::svg}), "");
    const std::string svg = read_file(folder / "f.svg");
    for (const std::string word : {"A finding", "of whom", "sales", "alpha", "beta"})
      EXPECT_NE(svg.find(word), std::string::npos) << word << " of kind " << chart.index();
    const bool has_series = chart.index() > 1;
    EXPECT_EQ(svg.find(">two<") != std::string::npos, has_series) << chart.index();
    ASSERT_EQ(write_figure(figure, folder, "g", {output::FigureFormat::svg}), "");
    EXPECT_EQ(read_file(folder / "g.svg"), svg);
  }
}

TEST(Terminal, AGroupOfColumnsIsShownWholeAndTotalsAlways) {
  result::Table table{"", "Groups", "", {}};
  table.columns = {result::text_column("region", "", texts({"North", "North", "Total"})),
                   result::text_column("town", "", texts({"Ash", "Oak", ""})),
                   result::integer_column("2023 a", result::Unit::count, "", {1, 2, 3}),
                   result::integer_column("2023 b", result::Unit::count, "", {1, 2, 3}),
                   result::integer_column("2024 a", result::Unit::count, "", {1, 2, 3}),
                   result::integer_column("2024 b", result::Unit::count, "", {1, 2, 3}),
                   result::integer_column("Total a", result::Unit::count, "", {4, 5, 9})};
  for (const std::size_t i : {0U, 1U, 6U}) table.columns[i].always_shown = true;
  for (const std::size_t i : {2U, 3U, 4U, 5U}) {
    table.columns[i].group = table.columns[i].name.substr(0, 4);
    table.columns[i].heading = table.columns[i].name.substr(5);
  }
  table.totals = {2};
  EXPECT_EQ(output::render_table(table, {40, false, 1}, "t.csv"),
            "                 2023\n  region  town    a  b  Total a\n  North   Ash     1  1        4\n  "
            "Total           3  3        9\n  ... 1 more row and the columns 2024 a,\n  2024 b in t.csv\n");
}

/// Text of the data never becomes a gnuplot command and is never parsed as markup.
TEST(Figures, TextOfTheDataStaysText) {
  const TemporaryFolder folder;
  const std::string made = folder / "made";
  for (const std::string& text :
       {"'\nsystem(\"touch " + made + "\")\n#", "`touch " + made + "`",
        std::string("{/Bold x}^2 @_$1 <b>&amp;</b> %d \\n"), std::string("\"; print 1; \"")}) {
    ASSERT_EQ(write_figure(sample(text).figures.front(), folder, "f",
                           {output::FigureFormat::svg, output::FigureFormat::png}),
              "");
    EXPECT_FALSE(std::filesystem::exists(made)) << text;
  }
  ASSERT_EQ(write_figure(sample("{x}^2 & <b>").figures.front(), folder, "f", {output::FigureFormat::svg}),
            "");
  EXPECT_NE(read_file(folder / "f.svg").find("Bars of {x}^2 &amp; &lt;b>"), std::string::npos);
  EXPECT_NE(read_file(folder / "f.svg").find("<title>Bars of {x}^2 &amp; &lt;b></title>"), std::string::npos);
}

}  // namespace
}  // namespace pear::test
