#include "study/report/report_table.hpp"

#include <algorithm>
#include <kainjow/mustache.hpp>
#include <numeric>
#include <optional>

#include <fmt/format.h>

#include "base/natural_order.hpp"
#include "base/text.hpp"
#include "output/tables/readable.hpp"
#include "result/cell_text.hpp"
#include "study/report/html.hpp"

namespace pear::study {
namespace {

using kainjow::mustache::data;

constexpr std::size_t kMostColumns = 8, kMostGroupedColumns = 16;
constexpr std::size_t kWidestText = 400;

bool is_in_order_of_ids(const result::Table& table) {
  if (table.columns.empty() || table.columns.front().id_of == result::IdOf::none || !table.totals.empty())
    return false;
  const result::TableColumn& ids = table.columns.front();
  for (std::size_t row = 1; row < std::min<std::size_t>(table.rows(), 100); ++row)
    if (NaturalLess{}(ids.text(row), ids.text(row - 1))) return false;
  return table.rows() > 2;
}

/// A list of customers or products in the order of their ids has no best first: the position of the column
/// that it is sorted by instead; nothing for other tables.
std::optional<std::size_t> best_first(const result::Table& table) {
  if (!is_in_order_of_ids(table)) return std::nullopt;
  for (const std::string_view name : {"expected_margin", "expected_amount", "amount", "distinct"})
    for (std::size_t i = 0; i < table.columns.size(); ++i)
      if (table.columns[i].name == name) return i;
  return std::nullopt;
}

/// Those that are always shown, the one that rows are sorted by, and then the first ones, in their order, but
/// names before their ids.
std::vector<std::size_t> chosen_columns(const result::Table& table) {
  const bool has_groups =
      std::any_of(table.columns.begin(), table.columns.end(),
                  [](const result::TableColumn& column) { return !column.group.empty(); });
  const std::size_t most = has_groups ? kMostGroupedColumns : kMostColumns;
  const std::optional<std::size_t> sorted_by = best_first(table);
  const auto is_needed = [&](std::size_t i) { return table.columns[i].always_shown || sorted_by == i; };
  std::size_t others = most;
  for (std::size_t i = 0; i < table.columns.size(); ++i) others -= is_needed(i) && others > 0 ? 1U : 0U;
  std::vector<std::size_t> chosen;
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    if (!is_needed(i) && others == 0) continue;
    others -= is_needed(i) ? 0U : 1U;
    chosen.push_back(i);
  }
  for (std::size_t i = 0; i + 1 < chosen.size(); ++i) {
    const result::TableColumn& ids = table.columns[chosen[i]];
    const bool is_named =
        ids.id_of != result::IdOf::none && table.columns[chosen[i + 1]].name.ends_with("_name");
    if (is_named) std::swap(chosen[i], chosen[i + 1]), ++i;
  }
  return chosen;
}

bool is_number(const result::TableColumn& column) {
  return column.unit != result::Unit::text && column.unit != result::Unit::date;
}

/// In words: "days to second" for days_to_second.
std::string heading(const result::TableColumn& column) {
  std::string name = column.heading.empty() ? column.name : column.heading;
  std::replace(name.begin(), name.end(), '_', ' ');
  return column.group.empty() || column.heading.empty() ? name : column.group + " " + name;
}

constexpr std::string_view kTableTemplate =
    R"html(<div class="rows"><table><thead><tr>{{#heads}}<th scope="col"{{#number}} class="n"{{/number}} title="{{description}}">{{text}}</th>{{/heads}}</tr></thead><tbody>
{{#rows}}<tr{{#class}} class="{{.}}"{{/class}}>{{#cells}}{{#number}}<td class="n" data-v="{{exact}}">{{text}}</td>{{/number}}{{^number}}<td><bdi>{{text}}</bdi></td>{{/number}}{{/cells}}</tr>
{{/rows}}</tbody></table></div>{{#more}}<p class="soft">{{.}} more in the file.</p>{{/more}})html";

data heads_of(const result::Table& table, const std::vector<std::size_t>& columns) {
  data heads(data::type::list);
  for (const std::size_t i : columns) {
    const result::TableColumn& column = table.columns[i];
    data head(data::type::object);
    head.set("number", is_number(column));
    head.set("description", column.description);
    head.set("text", output::cut_to_width(heading(column), kWidestText));
    heads.push_back(head);
  }
  return heads;
}

data row_of(const result::Table& table, const std::vector<std::size_t>& columns, std::size_t row) {
  const bool is_total = std::binary_search(table.totals.begin(), table.totals.end(), row);
  const bool is_faint = row < table.faint.size() && table.faint[row] != 0;
  data css_class(data::type::list), cells(data::type::list);
  if (is_total || is_faint) css_class.push_back(is_total ? "total" : "faint");
  for (const std::size_t i : columns) {
    const result::TableColumn& column = table.columns[i];
    data cell(data::type::object);
    cell.set("number", is_number(column));
    cell.set("exact", is_number(column) ? result::cell_text(column, row) : std::string());
    cell.set("text", output::cut_to_width(output::readable_cell(column, row), kWidestText));
    cells.push_back(cell);
  }
  data all(data::type::object);
  all.set("class", css_class);
  all.set("cells", cells);
  return all;
}

}  // namespace

std::string render_html_table(const result::Table& table, std::size_t rows) {
  const std::vector<std::size_t> columns = chosen_columns(table);
  const std::size_t shown = std::min(rows, table.rows());
  data all(data::type::object), body(data::type::list), more(data::type::list);
  std::vector<std::uint32_t> order(table.rows());
  std::iota(order.begin(), order.end(), 0U);
  if (const auto sorted_by = best_first(table)) order = result::row_order(table, {{*sorted_by, true}});
  for (std::size_t row = 0; row < shown; ++row) body.push_back(row_of(table, columns, order[row]));
  if (shown < table.rows() && table.ends_in_total()) body.push_back(row_of(table, columns, table.rows() - 1));
  std::vector<std::string> left_out;
  if (shown < table.rows()) left_out.push_back(counted(table.rows() - shown, "row"));
  if (columns.size() < table.columns.size())
    left_out.push_back(counted(table.columns.size() - columns.size(), "column"));
  if (!left_out.empty()) more.push_back(join(left_out, " and "));
  all.set("heads", heads_of(table, columns));
  all.set("rows", body);
  all.set("more", more);
  kainjow::mustache::mustache layout{std::string(kTableTemplate)};
  layout.set_custom_escape([](const std::string& text) { return html_text(text); });
  return layout.render(all);
}

}  // namespace pear::study
