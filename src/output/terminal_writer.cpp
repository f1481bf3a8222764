#include "output/terminal_writer.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "output/readable.hpp"

namespace pear {
namespace {

constexpr std::size_t kWidestText = 36;
constexpr std::size_t kGap = 2;

std::string emphasised(const std::string& text, const char* code, const TerminalStyle& style) {
  return style.emphasis ? fmt::format("\x1b[{}m{}\x1b[0m", code, text) : text;
}
std::string bold(const std::string& text, const TerminalStyle& style) { return emphasised(text, "1", style); }
std::string faint(const std::string& text, const TerminalStyle& style) {
  return emphasised(text, "2", style);
}

/// Wrapped text, the first line after `lead`, the others indented to the same column.
std::string paragraph(const std::string& lead, const std::string& text, const TerminalStyle& style) {
  std::string result;
  const std::size_t indent = display_width(lead);
  const std::size_t width = style.width > indent + 20 ? style.width - indent : 20;
  for (const std::string& line : wrapped(text, width))
    result += (result.empty() ? lead : std::string(indent, ' ')) + line + "\n";
  return result;
}

struct ShownColumn {
  std::vector<std::string> cells;  // the heading first
  std::size_t width = 0;
  bool to_the_right = false;
};

ShownColumn shown(const TableColumn& column, std::size_t rows, std::size_t widest = kWidestText) {
  ShownColumn result;
  result.to_the_right = column.unit != Unit::text && column.unit != Unit::date;
  result.cells.push_back(column.name);
  for (std::size_t row = 0; row < rows; ++row)
    result.cells.push_back(cut_to_width(readable_cell(column, row), widest));
  for (const std::string& cell : result.cells) result.width = std::max(result.width, display_width(cell));
  return result;
}

std::string padded(const ShownColumn& column, std::size_t line) {
  const std::string& cell = column.cells[line];
  const std::string space(column.width - display_width(cell), ' ');
  return column.to_the_right ? space + cell : cell + space;
}

/// How many of the columns fit side by side; at least one.
std::size_t fitting(const std::vector<ShownColumn>& columns, std::size_t width) {
  std::size_t used = 0;
  for (std::size_t i = 0; i < columns.size(); ++i) {
    used += columns[i].width + kGap;
    if (used > width && i > 0) return i;
  }
  return columns.size();
}

std::string checks_line(const Result& result) {
  std::vector<std::string> statements;
  for (const Check& check : result.checks)
    statements.push_back(check.holds ? check.statement : fmt::format("FAILED: {}", check.statement));
  return fmt::format("{} passed: {}.", counted(result.checks.size(), "check"), join(statements, "; "));
}

}  // namespace

std::string render_table(const Table& table, const TerminalStyle& style) {
  const std::size_t rows = std::min({style.top, table.most_shown, table.rows()});
  std::vector<ShownColumn> columns;
  for (const TableColumn& column : table.columns) columns.push_back(shown(column, rows));
  const std::size_t fit = fitting(columns, style.width - kGap);
  if (fit == columns.size() && fit > 0) {  // the last column may have the room that is left
    std::size_t used = kGap;
    for (std::size_t i = 0; i + 1 < fit; ++i) used += columns[i].width + kGap;
    if (style.width > used + kWidestText)
      columns.back() = shown(table.columns.back(), rows, style.width - used);
  }
  std::string text;
  for (std::size_t line = 0; line <= rows; ++line) {
    std::string row;
    for (std::size_t i = 0; i < fit; ++i) row += std::string(kGap, ' ') + padded(columns[i], line);
    row.erase(row.find_last_not_of(' ') + 1);
    text += (line == 0 ? faint(row, style) : row) + "\n";
  }
  std::string rest;
  if (rows < table.rows()) rest = fmt::format("{} more", counted(table.rows() - rows, "row"));
  if (fit < columns.size()) {
    std::vector<std::string> names;
    for (std::size_t i = fit; i < columns.size(); ++i) names.push_back(columns[i].cells.front());
    rest += fmt::format("{}not shown here: {}", rest.empty() ? "" : "; ", join(names, ", "));
  }
  if (!rest.empty())
    for (const std::string& line : wrapped("... " + rest, style.width - kGap))
      text += faint("  " + line, style) + "\n";
  return text;
}

std::string render_result(const Result& result, const std::string& selection,
                          const std::vector<std::string>& files, const TerminalStyle& style) {
  std::string text;
  for (const std::string& sentence : result.headline) {
    for (const std::string& line : wrapped(sentence, style.width)) text += bold(line, style) + "\n";
  }
  if (result.population.lines > 0)
    text += "\n" + paragraph("Population  ", readable_population(result.population, result.whole, result.currency), style);
  if (!selection.empty()) text += paragraph("Selection   ", selection, style);
  for (const Table& table : result.tables) {
    if (table.rows() == 0) continue;
    text += "\n" + bold(table.title, style) + "\n" + render_table(table, style);
  }
  if (!result.notes.empty()) text += "\n";
  for (const std::string& note : result.notes) text += paragraph("Note        ", note, style);
  if (!result.checks.empty()) text += "\n" + paragraph("", checks_line(result), style);
  if (!files.empty()) text += paragraph("Written     ", join(files, ", "), style);
  return text;
}

}  // namespace pear
