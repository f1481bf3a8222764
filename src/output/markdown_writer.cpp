#include "output/markdown_writer.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "output/data_package.hpp"
#include "output/readable.hpp"

namespace pear {
namespace {

/// Signs that Markdown would take for its own are escaped; line breaks become spaces.
std::string escaped(std::string_view text) {
  constexpr std::string_view kSigns = "\\`*_{}[]<>#|~&";
  std::string result;
  for (const char c : text) {
    if (kSigns.find(c) != std::string_view::npos) result += '\\';
    result += c == '\n' || c == '\r' ? ' ' : c;
  }
  return result;
}

std::string render_rows(const Table& table, std::size_t rows) {
  std::string names = "|";
  std::string rule = "|";
  for (const TableColumn& column : table.columns) {
    const bool to_the_right = column.unit != Unit::text && column.unit != Unit::date;
    names += fmt::format(" {} |", escaped(column.name));
    rule += to_the_right ? " ---: |" : " --- |";
  }
  std::string text = names + "\n" + rule + "\n";
  for (std::size_t row = 0; row < rows; ++row) {
    text += "|";
    for (const TableColumn& column : table.columns)
      text += fmt::format(" {} |", escaped(readable_cell(column, row)));
    text += "\n";
  }
  return text;
}

}  // namespace

std::string render_markdown(const Result& result, const std::string& title, const std::string& selection,
                            const std::string& stem, std::size_t top) {
  std::string text = fmt::format("# {}\n\n", escaped(title));
  for (const std::string& sentence : result.headline) text += fmt::format("**{}**\n\n", escaped(sentence));
  text += fmt::format("Population: {}.\nSelection: {}.\n",
                      escaped(readable_population(result.population, result.whole, result.currency)),
                      escaped(selection));
  for (const Table& table : result.tables) {
    if (table.rows() == 0) continue;
    const std::size_t rows = std::min(top, table.rows());
    text += fmt::format("\n## {}\n\n{}\n\n{}", escaped(table.title), escaped(table.description),
                        render_rows(table, rows));
    if (rows < table.rows())
      text += fmt::format("\n{} more in {}.csv.\n", counted(table.rows() - rows, "row"),
                          file_stem(stem, table.part));
  }
  if (!result.notes.empty()) text += "\n## Notes\n\n";
  for (const std::string& note : result.notes) text += fmt::format("- {}\n", escaped(note));
  if (!result.checks.empty()) text += "\n## Checks\n\n";
  for (const Check& check : result.checks)
    text += fmt::format("- {}: {}\n", check.holds ? "passed" : "FAILED", escaped(check.statement));
  return text;
}

}  // namespace pear
