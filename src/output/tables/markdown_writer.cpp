#include "output/tables/markdown_writer.hpp"

#include <algorithm>

#include <absl/strings/str_replace.h>
#include <fmt/format.h>

#include "base/text.hpp"
#include "output/tables/data_package.hpp"
#include "output/tables/readable.hpp"

namespace pear::output {
std::string markdown_text(std::string_view text) {
  constexpr std::string_view kSigns = "\\`*_{}[]<>#|~&";
  std::string result;
  for (const char c :
       without_controls(absl::StrReplaceAll({text.data(), text.size()}, {{"\n", " "}, {"\r", " "}}))) {
    if (kSigns.find(c) != std::string_view::npos) result += '\\';
    result += c;
  }
  return result;
}

std::string markdown_table(const result::Table& table, std::size_t rows) {
  std::string names = "|";
  std::string rule = "|";
  for (const result::TableColumn& column : table.columns) {
    const bool to_the_right = column.unit != result::Unit::text && column.unit != result::Unit::date;
    names += fmt::format(" {} |", markdown_text(column.name));
    rule += to_the_right ? " ---: |" : " --- |";
  }
  std::string text = names + "\n" + rule + "\n";
  for (std::size_t row = 0; row < rows; ++row) {
    text += "|";
    for (const result::TableColumn& column : table.columns)
      text += fmt::format(" {} |", markdown_text(readable_cell(column, row)));
    text += "\n";
  }
  return text;
}

std::string render_markdown(const result::Result& result, const std::string& title,
                            const std::string& selection, const std::string& stem, std::size_t top,
                            const MarkdownPlace& place) {
  const std::string rank(static_cast<std::size_t>(place.level), '#');
  std::string text = fmt::format("{} {}\n\n", rank, markdown_text(title));
  for (const std::string& sentence : result.headline)
    text += fmt::format("**{}**\n\n", markdown_text(sentence));
  text += place.between;
  text += fmt::format("Population: {}.\nSelection: {}.\n",
                      markdown_text(readable_population(result.population, result.whole, result.currency)),
                      markdown_text(selection));
  for (const result::Table& table : result.tables) {
    if (table.rows() == 0) continue;
    const std::size_t rows = std::min(top, table.rows());
    text += fmt::format("\n{}# {}\n\n{}\n\n{}", rank, markdown_text(table.title),
                        markdown_text(table.description), markdown_table(table, rows));
    if (rows < table.rows())
      text += fmt::format("\n{} more in {}.csv.\n", counted(table.rows() - rows, "row"),
                          file_stem(stem, table.part));
  }
  if (!result.notes.empty()) text += fmt::format("\n{}# Notes\n\n", rank);
  for (const std::string& note : result.notes) text += fmt::format("- {}\n", markdown_text(note));
  if (!result.checks.empty()) text += fmt::format("\n{}# Checks\n\n", rank);
  for (const result::Check& check : result.checks)
    text += fmt::format("- {}: {}\n", check.holds ? "passed" : "FAILED", markdown_text(check.statement));
  return text;
}

}  // namespace pear::output
