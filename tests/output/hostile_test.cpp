// Text that is markup, a formula or a command to some program passes through every writer as text.
#include "support/hostile.hpp"

#include <cmark.h>
#include <sstream>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include "app/side_table.hpp"
#include "output/charts/figure_writer.hpp"
#include "output/tables/markdown_writer.hpp"
#include "output/tables/readable.hpp"
#include "output/tables/result_files.hpp"
#include "output/tables/terminal_writer.hpp"
#include "sources/table_reader.hpp"
#include "study/report/html.hpp"
#include "support/drawing.hpp"
#include "support/other_programs.hpp"

namespace pear::test {
namespace {

/// Hostile in its cells, names of columns, title, headline and notes.
result::Result hostile_result() {
  result::Result result;
  result.question = "hostile";
  TextArray texts;
  std::vector<std::int64_t> amounts;
  for (const std::string& text : hostile_texts()) {
    texts.push_back(text);
    amounts.push_back(static_cast<std::int64_t>(amounts.size()) * 12'345);
    result.headline.push_back(text);
    result.notes.push_back(text);
    result.definitions.emplace_back(text, text);
    result.checks.push_back({text, true});
  }
  result.currency = "EUR";
  result::Table table{"", hostile_texts()[0], hostile_texts()[1], {}};
  table.columns = {result::text_column("name", hostile_texts()[2], std::move(texts)),
                   result::integer_column("=amount(<b>)", result::Unit::money, "Money.", std::move(amounts))};
  result.tables.push_back(std::move(table));
  return result;
}

class Hostile : public testing::Test {
 protected:
  Hostile() {
    const auto written =
        output::write_result(hostile_result(), {"pear-thread hostile", "x.daybook", "f", hostile_texts()[0]},
                             {folder_.path(),
                              "h",
                              {},
                              {output::TableFormat::csv, output::TableFormat::json, output::TableFormat::xlsx,
                               output::TableFormat::md}});
    EXPECT_TRUE(written.has_value()) << (written ? "" : written.error().message);
  }
  TemporaryFolder folder_;
};

TEST_F(Hostile, CsvReadsBackAsItWas) {
  const auto table = app::read_side_table(folder_ / "h.csv");
  ASSERT_TRUE(table.has_value()) << table.error().message;
  EXPECT_EQ(table->header, (std::vector<std::string>{"name", "=amount(<b>)"}));
  ASSERT_EQ(table->rows.size(), hostile_texts().size());
  for (std::size_t i = 0; i < table->rows.size(); ++i) EXPECT_EQ(table->rows[i][0], hostile_texts()[i]);
}

TEST_F(Hostile, JsonReadsBackAsItWas) {
  const auto json = nlohmann::json::parse(read_file(folder_ / "h.json"));
  const auto& rows = json["tables"][0]["rows"];
  ASSERT_EQ(rows.size(), hostile_texts().size());
  for (std::size_t i = 0; i < rows.size(); ++i) {
    EXPECT_EQ(rows[i]["name"], hostile_texts()[i]);
    EXPECT_EQ(json["headline"][i], hostile_texts()[i]);
  }
  EXPECT_EQ(rows[1]["=amount(<b>)"], 1.2345);
  const auto package = nlohmann::json::parse(read_file(folder_ / "datapackage.json"));
  EXPECT_EQ(package["trails"]["h"]["notes"], json["notes"]);
}

TEST_F(Hostile, InAWorkbookTextStaysTextAndNumbersHaveTheirFormats) {
  const OtherRun read =
      run_other("/usr/bin/python3 '" PEAR_TESTS "/support/read_workbook.py' '" + folder_ / "h.xlsx" + "'");
  ASSERT_EQ(read.exit_code, 0) << read.err;
  const auto book = nlohmann::json::parse(read.out);
  const auto& sheet = book["h"];
  EXPECT_EQ(sheet["frozen"], "A2");
  EXPECT_EQ(sheet["filter"], fmt::format("A1:B{}", 1 + hostile_texts().size()));
  for (std::size_t i = 0; i < hostile_texts().size(); ++i) {
    const auto& row = sheet["rows"][i + 1];
    EXPECT_EQ(row[0]["value"], output::without_controls(hostile_texts()[i]));
    EXPECT_EQ(row[0]["type"], "s") << hostile_texts()[i] << " must not be a formula";
    EXPECT_EQ(row[1]["type"], "n");
    EXPECT_EQ(row[1]["format"], "#,##0.00 \"EUR\"");
  }
  for (const auto& row : book["Contents"]["rows"])
    for (const auto& cell : row)
      if (!cell.is_null()) {
        EXPECT_EQ(cell["type"], "s") << cell["value"];
      }
}

TEST(Workbook, KeepsTabsAndLineBreaks) {
  const TemporaryFolder folder;
  result::Result result;
  TextArray texts;
  texts.push_back("\ttab9\nsecond line");
  result::Table table{"", "Names", "Names.", {}};
  table.columns = {result::text_column("name", "Name.", std::move(texts))};
  result.tables.push_back(std::move(table));
  ASSERT_TRUE(output::write_result(result, {"pear-thread names", "x.daybook", "f", ""},
                                   {folder.path(), "h", {}, {output::TableFormat::xlsx}}));
  const OtherRun read =
      run_other("/usr/bin/python3 '" PEAR_TESTS "/support/read_workbook.py' '" + folder / "h.xlsx" + "'");
  EXPECT_EQ(nlohmann::json::parse(read.out)["h"]["rows"][1][0]["value"], "\ttab9\nsecond line");
}

TEST_F(Hostile, NoTextCommandsATerminal) {
  for (const bool emphasis : {false, true}) {
    output::TerminalStyle style;
    style.emphasis = emphasis;
    style.top = hostile_texts().size();
    std::string shown = output::render_result(hostile_result(), hostile_texts()[0], {"h.csv"}, style);
    for (const char* own : {"\x1b[0m", "\x1b[1m", "\x1b[2m"})
      for (std::size_t at = shown.find(own); emphasis && at != std::string::npos; at = shown.find(own))
        shown.erase(at, 4);
    for (const char c : shown)
      EXPECT_TRUE(c == '\n' || static_cast<unsigned char>(c) >= 0x20) << static_cast<int>(c);
  }
}

/// Drawn, and read as XML by another program: the texts are there, and they create no elements.
TEST_F(Hostile, AFigureContainsExactlyTheText) {
  std::string files, texts;
  for (std::size_t i = 0; i < hostile_texts().size(); ++i) {
    result::Figure figure;
    result::BarChart chart;
    chart.label = "label";
    chart.value = "value";
    figure.title = figure.subtitle = chart.label_title = chart.value_title = hostile_texts()[i];
    figure.chart = chart;
    TextArray labels;
    labels.push_back(hostile_texts()[i]);
    labels.push_back("other");
    figure.marks.columns = {result::text_column("label", "", std::move(labels)),
                            result::share_column("value", "", {0.4, 0.6})};
    const std::string stem = fmt::format("f{}", i);
    ASSERT_EQ(write_figure(figure, folder_, stem, {output::FigureFormat::svg}), "");
    files += " '" + folder_ / (stem + ".svg") + "'";
  }
  const OtherRun read = run_other(
      "/usr/bin/python3 -c 'import sys, xml.etree.ElementTree as x\n"
      "for f in sys.argv[1:]:\n"
      "    names = {e.tag.split(\"}\")[1] for e in x.parse(f).iter()}\n"
      "    print(sorted(names - set(\"svg title desc defs g path rect circle use text tspan polygon filter "
      "feFlood feComposite feColorMatrix feBlend feOffset\".split())))'" +
      files);
  ASSERT_EQ(read.exit_code, 0) << read.err;
  std::istringstream lines(read.out);
  for (std::string line; std::getline(lines, line);) EXPECT_EQ(line, "[]");
  for (const std::size_t plain : {std::size_t{2}, std::size_t{8}, std::size_t{9}, std::size_t{10}}) {
    const std::string svg = read_file(folder_ / fmt::format("f{}.svg", plain));
    std::string text = hostile_texts()[plain];
    EXPECT_NE(svg.find("<title>" + text), std::string::npos) << text;
  }
}

/// A paragraph of it, read by the standard's own reader, is exactly the text.
TEST_F(Hostile, MarkdownShowsTheTextItself) {
  for (const std::string& text : hostile_texts()) {
    const std::string markdown = "x " + output::markdown_text(text);
    char* html = cmark_markdown_to_html(markdown.data(), markdown.size(), CMARK_OPT_DEFAULT);
    std::string read = html;
    std::free(html);
    std::string expected = "<p>x " + study::html_text(text) + "</p>\n";
    for (const auto& [entity, plain] : {std::pair("&#39;", "'")})  // need not be escaped there
      for (std::size_t at = expected.find(entity); at != std::string::npos; at = expected.find(entity, at))
        expected.replace(at, 5, plain);
    EXPECT_EQ(read, expected);
  }
  EXPECT_EQ(study::markdown_as_html(read_file(folder_ / "h.md")).find("raw HTML omitted"), std::string::npos);
}

TEST_F(Hostile, RemovesScriptsAndPicturesFromMarkdown) {
  for (const std::string& text : hostile_texts()) {
    const std::string html = study::markdown_as_html(text);
    EXPECT_EQ(html.find("<script"), std::string::npos) << html;
    EXPECT_EQ(html.find("<img"), std::string::npos) << html;
  }
  EXPECT_EQ(study::markdown_as_html("*a* [b](javascript:alert(1))"),
            "<p><em>a</em> <a href=\"\">b</a></p>\n");
}

}  // namespace
}  // namespace pear::test
