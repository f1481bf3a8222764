// Tables on a terminal and in Markdown: nothing wider than asked for, columns aligned, and what is left out
// is said.
#include <algorithm>
#include <set>
#include <sstream>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "output/tables/markdown_writer.hpp"
#include "output/tables/readable.hpp"
#include "output/tables/terminal_writer.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

std::vector<std::string> lines_of(const std::string& text) {
  std::vector<std::string> lines;
  std::istringstream in(text);
  for (std::string line; std::getline(in, line);) lines.push_back(line);
  return lines;
}

std::string random_words(int most) {
  const std::string words[] = {"wool", "dye", "Müller", "a", "spinning-wheel", "é", "42"};
  std::string text;
  for (int i = pick(1, most); i > 0; --i) text += (text.empty() ? "" : " ") + words[pick(0, 6)];
  return text;
}

/// Columns c0, c1, ... of several units; the first is a text.
result::Table table_of_words(std::size_t rows) {
  result::Table table{"", "Random", "", {}};
  const int columns = pick(1, 9);
  for (int c = 0; c < columns; ++c) {
    const std::string name = fmt::format("c{}", c);
    if (c == 0 || pick(0, 2) == 0) {
      TextArray texts;
      for (std::size_t row = 0; row < rows; ++row)
        texts.push_back(random_words(c + 1 == columns ? 30 : 5) + fmt::format(" r{}", row));
      table.columns.push_back(result::text_column(name, "", std::move(texts)));
    } else {
      std::vector<std::int64_t> values;
      for (std::size_t row = 0; row < rows; ++row)
        values.push_back(pick(0, 9) == 0 ? result::kEmptyCell : pick(-9'999'999, 99'999'999));
      table.columns.push_back(result::integer_column(
          name, pick(0, 1) == 0 ? result::Unit::count : result::Unit::money, "", values));
    }
    table.columns.back().always_shown = c > 0 && pick(0, 5) == 0;
  }
  if (rows > 0 && pick(0, 2) == 0) table.totals = {rows - 1};
  table.rows_by_time = pick(0, 3) == 0;
  table.columns_by_time = pick(0, 3) == 0;
  return table;
}

RC_GTEST_PROP(TerminalTable, FitsTheWidthAndSaysWhatIsLeftOut, ()) {
  const auto rows = static_cast<std::size_t>(pick(0, 14));
  const result::Table table = table_of_words(rows);
  output::TerminalStyle style;
  style.width = static_cast<std::size_t>(pick(40, 140));
  style.top = static_cast<std::size_t>(pick(1, 12));
  const std::vector<std::string> lines = lines_of(output::render_table(table, style, "out/t.csv"));
  for (const std::string& line : lines) RC_ASSERT(output::display_width(line) <= style.width);

  std::set<std::string> shown;  // columns, by the heading
  std::istringstream heading(lines.front());
  for (std::string name; heading >> name;) shown.insert(name);
  RC_ASSERT(shown.contains("c0"));
  std::string left_out;
  for (const std::string& line : lines)
    if (line.starts_with("  ... ") || !left_out.empty())
      left_out += (left_out.empty() ? "" : " ") + line.substr(2);
  std::vector<std::string> hidden;
  for (const result::TableColumn& column : table.columns)
    if (!shown.contains(column.name)) hidden.push_back(column.name);
  for (const std::string& name : hidden) RC_ASSERT(left_out.find(name) != std::string::npos);
  const std::size_t footer = table.ends_in_total() ? 1 : 0;
  const std::size_t given = std::min(style.top, rows - footer) + footer;
  const std::string more = fmt::format("{} {}row{}", rows - given, table.rows_by_time ? "earlier " : "more ",
                                       rows - given == 1 ? "" : "s");
  RC_ASSERT((left_out.find(more) != std::string::npos) == (given < rows));
  RC_ASSERT(left_out.empty() == (given == rows && hidden.empty()));
  if (!left_out.empty()) RC_ASSERT(left_out.ends_with("in out/t.csv"));

  // Each row shown appears in its place, recognised by the end of its first text; the total is the last.
  std::vector<std::size_t> wanted;
  const std::size_t begin = table.rows_by_time ? rows - footer - (given - footer) : 0;
  for (std::size_t i = 0; i + footer < given; ++i) wanted.push_back(begin + i);
  if (footer > 0) wanted.push_back(rows - 1);
  std::size_t next = 0;
  for (std::size_t i = 1; i < lines.size() && next < wanted.size(); ++i) {
    const std::string text = output::cut_to_width(table.columns[0].text(wanted[next]), 12);
    if (lines[i].substr(2).starts_with(text.substr(0, text.find("\u2026")))) ++next;
  }
  RC_ASSERT(next == wanted.size());
}

/// The last digits of a column of numbers are below one another, and below the end of its heading.
RC_GTEST_PROP(TerminalTable, NumbersAreAlignedToTheRight, ()) {
  result::Table table{"", "Numbers", "", {}};
  const int columns = pick(1, 4), rows = pick(1, 8);
  for (int c = 0; c < columns; ++c) {
    std::vector<std::int64_t> values;
    for (int row = 0; row < rows; ++row) values.push_back(std::int64_t{pick(-999, 999)} * pick(1, 99'999));
    table.columns.push_back(result::integer_column(std::string(static_cast<std::size_t>(pick(1, 12)), 'x'),
                                                   result::Unit::count, "", values));
  }
  const std::vector<std::string> lines = lines_of(output::render_table(table, {}));
  RC_ASSERT(lines.size() == static_cast<std::size_t>(rows) + 1);
  std::size_t end = 0;
  for (int c = 0; c < columns; ++c) {
    end = lines[0].find_first_of(' ', lines[0].find_first_not_of(' ', end));
    for (int row = 0; row < rows; ++row) {
      const std::string& line = lines[static_cast<std::size_t>(row) + 1];
      const std::string cell =
          output::readable_cell(table.columns[static_cast<std::size_t>(c)], static_cast<std::size_t>(row));
      const std::size_t last = std::min(end, line.size());
      const bool is_wider = cell.size() > table.columns[static_cast<std::size_t>(c)].name.size();
      if (!is_wider) RC_ASSERT(line.substr(last - cell.size(), cell.size()) == cell);
    }
    if (end == std::string::npos) break;
  }
  for (const std::string& line : lines) RC_ASSERT(line.size() == lines[0].size());
}

RC_GTEST_PROP(Wrapping, KeepsAllWordsWithinTheWidth, ()) {
  const std::string text = random_words(30);
  const auto width = static_cast<std::size_t>(pick(1, 40));
  std::string joined;
  const std::vector<std::string> lines = output::wrapped(text, width);
  for (std::size_t i = 0; i < lines.size(); ++i) {
    joined += (i == 0 ? "" : " ") + lines[i];
    RC_ASSERT(output::display_width(lines[i]) <= width || lines[i].find(' ') == std::string::npos);
    const std::string next = i + 1 < lines.size() ? lines[i + 1].substr(0, lines[i + 1].find(' ')) : "";
    if (!next.empty())
      RC_ASSERT(output::display_width(lines[i] + " " + next) > width);  // lines are as full as they can be
  }
  RC_ASSERT(joined == text);
  const std::string cut = output::cut_to_width(text, width);
  RC_ASSERT(output::display_width(cut) <= width);
  RC_ASSERT((cut == text) == (output::display_width(text) <= width));
  if (cut != text) RC_ASSERT(text.starts_with(cut.substr(0, cut.rfind("\u2026"))));
}

RC_GTEST_PROP(MarkdownTable, HasACellForEveryColumn, ()) {
  const auto rows = static_cast<std::size_t>(pick(1, 6));
  const result::Table table = table_of_words(rows);
  const std::vector<std::string> lines = lines_of(output::markdown_table(table, rows));
  RC_ASSERT(lines.size() == rows + 2);
  for (const std::string& line : lines)
    RC_ASSERT(static_cast<std::size_t>(std::count(line.begin(), line.end(), '|')) ==
              table.columns.size() + 1);
  for (std::size_t row = 0; row < rows; ++row)
    for (const result::TableColumn& column : table.columns)
      RC_ASSERT(lines[row + 2].find(output::markdown_text(output::readable_cell(column, row))) !=
                std::string::npos);
}

TEST(TerminalResult, ShowsEveryPartInItsOrder) {
  result::Result result;
  result.headline = {"Three customers ordered again."};
  result.population = {3, 4, 5, 0, std::nullopt, std::nullopt, std::nullopt};
  TextArray ids;
  ids.push_back("P1");
  result.tables = {{"", "Products", "", {result::text_column("id", "", ids)}},
                   {"none", "Nothing", "", {result::text_column("id", "", TextArray())}}};
  result.notes = {"One was left out."};
  result.checks = {{"it adds up", true}, {"it is whole", false}};
  EXPECT_EQ(output::render_result(result, "year = 2024", {"out/a.csv", "out/a.svg"}, {}),
            "Three customers ordered again.\n\nPopulation  3 customers, 4 orders, 5 lines\nSelection   year "
            "= 2024\n\nProducts\n  id\n  P1\n\n"
            "Note        One was left out.\n\n2 checks passed: it adds up; FAILED: it is whole.\nWritten     "
            "out/a.csv, out/a.svg\n");
}

}  // namespace
}  // namespace pear::test
