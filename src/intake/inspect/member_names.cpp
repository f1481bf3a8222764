#include "intake/inspect/member_names.hpp"

#include <algorithm>
#include <optional>
#include <string>

#include <fmt/format.h>

#include "intake/plan/usual_names.hpp"

namespace pear::intake {
namespace {

std::optional<std::size_t> column_named(const GuessedTable& table, std::string_view name) {
  const auto found = std::find_if(table.columns.begin(), table.columns.end(),
                                  [&](const GuessedColumn& column) { return column.name == name; });
  if (found == table.columns.end()) return std::nullopt;
  return static_cast<std::size_t>(found - table.columns.begin());
}

/// Where several columns fit, the one with the most usual name.
std::optional<std::size_t> name_column(const GuessedTable& table, const SourceProfile& source, TableKind of,
                                       std::size_t most_values) {
  std::optional<std::size_t> best, best_rank;
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    const auto rank = label_rank(of, table.columns[i].header);
    const bool fits = rank && !table.columns[i].is_role && type_name(source.columns[i]) == "text" &&
                      source.columns[i].values.size() <= most_values;
    if (!fits || (best_rank && *best_rank <= *rank)) continue;
    best = i;
    best_rank = rank;
  }
  return best;
}

/// Names the column with the members' names; false if the table has none.
bool name_in(GuessedTable& table, const SourceProfile& source, TableKind of) {
  const std::string id = fmt::format("{}_id", singular(of)), name = fmt::format("{}_name", singular(of));
  const auto ids = column_named(table, id);
  if (!ids) return false;
  const std::size_t most = table.kind == of ? SIZE_MAX : source.columns[*ids].values.size();
  auto column = column_named(table, name);
  if (!column) column = name_column(table, source, of, most);
  if (!column) return false;
  table.columns[*column].name = name;
  table.columns[*column].why = fmt::format("by its name; shown next to {}", id);
  return true;
}

}  // namespace

void find_member_names(std::vector<GuessedTable>& tables, const std::vector<SourceProfile>& profiles) {
  for (const TableKind of : {TableKind::products, TableKind::customers})
    for (const TableKind kind : {of, TableKind::lines, TableKind::orders}) {
      bool any = false;  // several tables of a kind come from several systems
      for (GuessedTable& table : tables)
        if (table.kind == kind) any = name_in(table, profiles[table.sources.front()], of) || any;
      if (any) break;
    }
}

}  // namespace pear::intake
