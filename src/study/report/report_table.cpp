// Tables of a report.
#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "output/tables/readable.hpp"
#include "study/report/html.hpp"
#include "study/report/report.hpp"

namespace pear::study {
namespace {

constexpr std::size_t kMostColumns = 9, kMostGroupedColumns = 16;
constexpr std::size_t kWidestText = 160;

/// Those that are always shown and then the first ones, in their order.
std::vector<std::size_t> chosen_columns(const result::Table& table) {
  const bool has_groups =
      std::any_of(table.columns.begin(), table.columns.end(),
                  [](const result::TableColumn& column) { return !column.group.empty(); });
  const std::size_t most = has_groups ? kMostGroupedColumns : kMostColumns;
  std::size_t others = most;
  for (const result::TableColumn& column : table.columns)
    others -= column.always_shown && others > 0 ? 1U : 0U;
  std::vector<std::size_t> chosen;
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    if (!table.columns[i].always_shown && others == 0) continue;
    others -= table.columns[i].always_shown ? 0U : 1U;
    chosen.push_back(i);
  }
  return chosen;
}

bool is_number(const result::TableColumn& column) {
  return column.unit != result::Unit::text && column.unit != result::Unit::date;
}

std::string heading(const result::TableColumn& column) {
  const std::string& name = column.heading.empty() ? column.name : column.heading;
  return column.group.empty() || column.heading.empty() ? name : column.group + " " + name;
}

}  // namespace

std::string render_html_table(const result::Table& table, std::size_t rows) {
  const std::vector<std::size_t> columns = chosen_columns(table);
  std::string html = "<div class=\"rows\"><table><thead><tr>";
  for (const std::size_t i : columns) {
    const result::TableColumn& column = table.columns[i];
    html += fmt::format("<th scope=\"col\"{} title=\"{}\">{}</th>", is_number(column) ? " class=\"n\"" : "",
                        html_text(column.description),
                        html_text(output::cut_to_width(heading(column), kWidestText)));
  }
  html += "</tr></thead><tbody>\n";
  const std::size_t shown = std::min(rows, table.rows());
  for (std::size_t row = 0; row < table.rows(); ++row) {
    const bool is_total = std::binary_search(table.totals.begin(), table.totals.end(), row);
    if (row >= shown && !(row + 1 == table.rows() && table.ends_in_total())) continue;
    const bool is_faint = row < table.faint.size() && table.faint[row] != 0;
    html += is_total ? "<tr class=\"total\">" : is_faint ? "<tr class=\"faint\">" : "<tr>";
    for (const std::size_t i : columns) {
      const result::TableColumn& column = table.columns[i];
      const std::string text =
          html_text(output::cut_to_width(output::readable_cell(column, row), kWidestText));
      html += is_number(column) ? fmt::format("<td class=\"n\" data-v=\"{}\">{}</td>",
                                              html_text(result::cell_text(column, row)), text)
                                : fmt::format("<td><bdi>{}</bdi></td>", text);
    }
    html += "</tr>\n";
  }
  html += "</tbody></table></div>";
  std::vector<std::string> more;
  if (shown < table.rows()) more.push_back(counted(table.rows() - shown, "row"));
  if (columns.size() < table.columns.size())
    more.push_back(counted(table.columns.size() - columns.size(), "column"));
  if (!more.empty()) html += fmt::format("<p class=\"soft\">{} more in the file.</p>", join(more, " and "));
  return html;
}

}  // namespace pear::study
