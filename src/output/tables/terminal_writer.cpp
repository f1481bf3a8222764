#include "output/tables/terminal_writer.hpp"

#include <algorithm>
#include <limits>
#include <numeric>

#include <fmt/format.h>

#include "base/text.hpp"
#include "output/tables/readable.hpp"
#include "result/cell_text.hpp"

namespace pear::output {
namespace {

constexpr std::size_t kWidestText = 36;
constexpr std::size_t kUnlimited = std::numeric_limits<std::size_t>::max() / 2;
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

/// The rows of a table that are shown: the first ones, or the newest, and the total if there is one.
std::vector<std::size_t> shown_rows(const result::Table& table, std::size_t most) {
  const std::size_t footer = table.ends_in_total() ? 1 : 0;
  const std::size_t body = table.rows() - footer, count = std::min(most, body);
  std::vector<std::size_t> rows(count);
  std::iota(rows.begin(), rows.end(), table.rows_by_time ? body - count : 0);
  if (footer != 0) rows.push_back(table.rows() - 1);
  return rows;
}

bool is_label_unit(result::Unit unit) {
  return unit == result::Unit::text || unit == result::Unit::date || unit == result::Unit::days;
}

/// Whether a label need not be repeated: the row before has it, and those to the left of it.
bool is_repeated(const result::Table& table, std::size_t column, std::size_t row) {
  if (row == 0 || std::binary_search(table.totals.begin(), table.totals.end(), row)) return false;
  for (std::size_t i = 0; i <= column; ++i) {
    const result::TableColumn& labels = table.columns[i];
    if (!is_label_unit(labels.unit) || result::cell_text(labels, row) != result::cell_text(labels, row - 1))
      return false;
  }
  return true;
}

ShownColumn shown(const result::Table& table, std::size_t position, const std::vector<std::size_t>& rows,
                  std::size_t widest) {
  const result::TableColumn& column = table.columns[position];
  ShownColumn result;
  result.to_the_right = column.unit != result::Unit::text && column.unit != result::Unit::date;
  result.cells.push_back(cut_to_width(column.heading.empty() ? column.name : column.heading, widest));
  for (const std::size_t row : rows) {
    const bool is_name = position > 0 && table.columns[position - 1].id_of != result::IdOf::none &&
                         table.columns[position - 1].always_shown;
    const bool is_label = is_label_unit(column.unit) && (column.always_shown || is_name);
    const bool blank =
        is_label && (column.is_empty(row) || (row != rows.front() && is_repeated(table, position, row)));
    result.cells.push_back(blank ? "" : cut_to_width(readable_cell(column, row), widest));
  }
  for (const std::string& cell : result.cells) result.width = std::max(result.width, display_width(cell));
  return result;
}

std::string padded(const ShownColumn& column, std::size_t line) {
  const std::string& cell = column.cells[line];
  const std::string space(column.width - display_width(cell), ' ');
  return column.to_the_right ? space + cell : cell + space;
}

/// The line above the headings: the common heading of neighbouring columns, "── 2023 ──".
std::string group_line(const result::Table& table, const std::vector<ShownColumn>& columns,
                       const std::vector<std::size_t>& fit) {
  std::string line;
  for (std::size_t i = 0; i < fit.size();) {
    const std::string& group = table.columns[fit[i]].group;
    std::size_t width = 0;
    std::size_t end = i;
    for (; end < fit.size() && table.columns[fit[end]].group == group; ++end)
      width += columns[fit[end]].width + (end > i ? kGap : 0);
    line += std::string(kGap, ' ');
    const std::string label = group.empty() ? "" : cut_to_width(fmt::format(" {} ", group), width);
    const std::size_t free = width - display_width(label);
    for (std::size_t j = 0; j < free; ++j) {
      if (j == free / 2) line += label;
      line += group.empty() ? " " : "─";
    }
    if (free == 0) line += label;
    i = end;
  }
  return std::string(without_space_at_end(line));
}

/// Makes room for a heading that is wider than the columns under it.
void widen_groups(const result::Table& table, std::vector<ShownColumn>& columns) {
  for (std::size_t i = 0; i < columns.size();) {
    const std::string& group = table.columns[i].group;
    std::size_t end = i;
    std::size_t width = 0;
    do width += columns[end].width + (end > i ? kGap : 0);
    while (++end < columns.size() && !group.empty() && table.columns[end].group == group);
    const std::size_t needed = group.empty() ? 0 : display_width(group) + 2;
    if (width < needed) columns[i].width += needed - width;
    i = end;
  }
}

/// Neighbouring columns under one heading, which are shown whole or not at all.
struct ColumnGroup {
  std::size_t begin = 0, end = 0, width = 0;
  int rank = 0;  ///< 0: asked for; 1: always shown; 2: where there is room
};

std::vector<ColumnGroup> column_groups(const result::Table& table, const std::vector<ShownColumn>& columns) {
  constexpr std::size_t kNarrow = 20;  // a text at the end may be wrapped
  std::vector<ColumnGroup> groups;
  for (std::size_t i = 0; i < columns.size();) {
    const result::TableColumn& first = table.columns[i];
    ColumnGroup group{i, i, 0, first.is_asked ? 0 : first.always_shown ? 1 : 2};
    do {
      const bool is_last_text = i + 1 == columns.size() && table.columns[i].unit == result::Unit::text;
      group.width += (is_last_text ? std::min(columns[i].width, kNarrow) : columns[i].width) + kGap;
      group.end = ++i;
    } while (i < columns.size() && !first.group.empty() && table.columns[i].group == first.group);
    groups.push_back(group);
  }
  return groups;
}

/// The columns that fit, in their order: at least the first one and those that the user asked for, then those
/// that are always shown, then the others from the left, or the newest times.
std::vector<std::size_t> fitting(const result::Table& table, const std::vector<ShownColumn>& columns,
                                 std::size_t width) {
  std::vector<ColumnGroup> groups = column_groups(table, columns);
  if (!groups.empty()) groups.front().rank = 0;
  std::vector<std::size_t> order(groups.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    if (groups[a].rank != groups[b].rank) return groups[a].rank < groups[b].rank;
    return table.columns_by_time && groups[a].rank == 2 ? a > b : a < b;
  });
  std::size_t used = 0;
  bool has_room = true;
  std::vector<std::size_t> fitting;
  for (const std::size_t i : order) {
    const ColumnGroup& group = groups[i];
    if (table.columns[group.begin].is_below && width < kUnlimited - kGap) continue;
    const bool fits = used + group.width <= width;
    if (group.rank == 2) has_room = has_room && fits;
    if (group.rank > 0 && !(group.rank == 2 ? has_room : fits)) continue;
    used += group.width;
    for (std::size_t column = group.begin; column < group.end; ++column) fitting.push_back(column);
  }
  std::sort(fitting.begin(), fitting.end());
  return fitting;
}

std::string checks_line(const result::Result& result) {
  std::vector<std::string> statements;
  for (const result::Check& check : result.checks)
    statements.push_back(check.holds ? check.statement : fmt::format("FAILED: {}", check.statement));
  return fmt::format("{} passed: {}.", counted(result.checks.size(), "check"), join(statements, "; "));
}

}  // namespace

namespace {

/// "1,105 more rows and the columns second_date, orders in pear-out/first.csv"; empty if all is shown.
std::string left_out(const result::Table& table, std::size_t rows, const std::vector<std::size_t>& fit,
                     const std::string& file) {
  std::vector<std::string> names;
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    if (!table.columns[i].is_below && std::find(fit.begin(), fit.end(), i) == fit.end())
      names.push_back(table.columns[i].name);
  }
  std::vector<std::string> parts;
  if (rows < table.rows())
    parts.push_back(counted(table.rows() - rows, table.rows_by_time ? "earlier row" : "more row"));
  constexpr std::size_t kMostNamed = 8;
  if (names.size() > kMostNamed)
    parts.push_back(fmt::format("{} more columns ({} to {})", names.size(), names.front(), names.back()));
  else if (!names.empty())
    parts.push_back((names.size() == 1 ? "the column " : "the columns ") + join(names, ", "));
  if (parts.empty()) return "";
  return join(parts, " and ") + (file.empty() ? " not shown here" : " in " + file);
}

}  // namespace

namespace {

/// The last of the columns shown takes the remaining width. Texts that are longer are wrapped, unless one
/// needs more than six lines: then rows could not be compared any more, and they are cut.
struct LastColumn {
  bool is_text = false;
  std::size_t begin = 0, width = 0;
  std::vector<std::vector<std::string>> cells;  // by line of the table, the heading first, their lines

  /// The cell's lines, all but the first indented to the column.
  [[nodiscard]] std::string cell(std::size_t line) const {
    return join(cells[line], "\n" + std::string(begin, ' '));
  }
};

LastColumn last_column(const result::Table& table, const std::vector<ShownColumn>& columns,
                       const std::vector<std::size_t>& fit, const std::vector<std::size_t>& rows,
                       std::size_t width) {
  LastColumn last;
  if (fit.empty() || table.columns[fit.back()].unit != result::Unit::text) return last;
  constexpr std::size_t kLeast = 12, kMostLines = 6;
  last.is_text = true;
  last.begin = kGap;
  for (std::size_t i = 0; i + 1 < fit.size(); ++i) last.begin += columns[fit[i]].width + kGap;
  last.width = std::max(width, last.begin + kLeast) - last.begin;
  bool fits = true;
  for (const std::string& cell : shown(table, fit.back(), rows, std::string::npos).cells) {
    last.cells.push_back(wrapped(cell, last.width));
    fits = fits && last.cells.back().size() <= kMostLines;
  }
  if (fits) return last;
  last.cells.clear();
  for (const std::string& cell : shown(table, fit.back(), rows, last.width).cells)
    last.cells.push_back({cell});
  return last;
}

/// The sentences of a row that are shown below it, one a paragraph.
std::string sentences_below(const result::Table& table, std::size_t row, const std::vector<std::size_t>& fit,
                            const TerminalStyle& style) {
  const std::string indent(2 * kGap, ' ');
  std::string text;
  for (std::size_t i = 0; i < table.columns.size(); ++i)
    if (table.columns[i].is_below && std::find(fit.begin(), fit.end(), i) == fit.end() &&
        !table.columns[i].is_empty(row))
      for (const std::string& line :
           wrapped(readable_cell(table.columns[i], row), style.width - indent.size()))
        text += indent + faint(line, style) + "\n";
  return text;
}

}  // namespace

std::string render_table(const result::Table& table, const TerminalStyle& style, const std::string& file) {
  const std::vector<std::size_t> rows =
      shown_rows(table, style.top_is_asked ? style.top : std::min(style.top, table.most_shown));
  std::vector<ShownColumn> columns;
  const std::size_t width = style.wide_tables ? kUnlimited : style.width;
  for (std::size_t i = 0; i < table.columns.size(); ++i)
    columns.push_back(shown(table, i, rows, style.wide_tables ? kUnlimited : kWidestText));
  widen_groups(table, columns);
  const std::vector<std::size_t> fit = fitting(table, columns, width - kGap);
  const LastColumn last = last_column(table, columns, fit, rows, width);
  std::string text;
  if (std::any_of(fit.begin(), fit.end(), [&](std::size_t i) { return !table.columns[i].group.empty(); }))
    text += faint(group_line(table, columns, fit), style) + "\n";
  for (std::size_t line = 0; line <= rows.size(); ++line) {
    std::string row;
    for (const std::size_t i : fit) {
      const bool is_last_text = i == fit.back() && last.is_text;
      row += std::string(kGap, ' ') + (is_last_text ? last.cell(line) : padded(columns[i], line));
    }
    row = without_space_at_end(row);
    const bool is_total =
        line > 0 && std::binary_search(table.totals.begin(), table.totals.end(), rows[line - 1]);
    const bool is_faint = line == 0 || (!table.faint.empty() && table.faint[rows[line - 1]] != 0);
    text += (is_faint ? faint(row, style) : is_total ? bold(row, style) : row) + "\n";
    if (line > 0) text += sentences_below(table, rows[line - 1], fit, style);
  }
  const std::string rest = left_out(table, rows.size(), fit, file);
  if (!rest.empty())
    for (const std::string& line : wrapped("... " + rest, style.width - kGap))
      text += faint("  " + line, style) + "\n";
  return text;
}

std::string render_result(const result::Result& result, const std::string& selection,
                          const std::vector<std::string>& files, const TerminalStyle& style) {
  std::string text;
  for (const std::string& sentence : result.headline) {
    for (const std::string& line : wrapped(sentence, style.width)) text += bold(line, style) + "\n";
  }
  if (result.population.lines > 0)
    text += "\n" + paragraph("Population  ",
                             readable_population(result.population, result.whole, result.currency), style);
  if (!selection.empty()) text += paragraph("Selection   ", selection, style);
  for (std::size_t i = 0; i < result.tables.size(); ++i) {
    const result::Table& table = result.tables[i];
    if (table.rows() == 0 || table.most_shown == 0) continue;
    const std::string file =
        i < files.size() && files[i].ends_with(".csv") ? files[i] : "";  // tables come first
    text += "\n" + bold(table.title, style) + "\n" + render_table(table, style, file);
  }
  if (!result.notes.empty()) text += "\n";
  for (const std::string& note : result.notes) text += paragraph("Note        ", note, style);
  if (!result.checks.empty()) text += "\n" + paragraph("", checks_line(result), style);
  if (!files.empty()) text += paragraph("Written     ", join(files, ", "), style);
  return text;
}

}  // namespace pear::output
