#include "intake/open_tables.hpp"

#include <algorithm>
#include <string>
#include <utility>

#include "intake/read/table_columns.hpp"

namespace pear::intake {
namespace {

class RoleCheck {
 public:
  RoleCheck(const IntakePlan& plan, const OpenTables& tables) : plan_(plan), tables_(tables) {}

  OrError<void> run() const {
    for (const TableKind kind : {TableKind::orders, TableKind::lines, TableKind::products,
                                 TableKind::customers, TableKind::prices}) {
      for (const OpenTable& part : opened(kind)) {
        auto missing = missing_in(part);
        if (kind == TableKind::prices && !part.has(daybook::role::kListPrice))
          missing.emplace_back(daybook::role::kListPrice);
        if (!missing.empty())
          return missing_roles(missing, part.plans.front(), part.readers.front().name(), plan_.file);
      }
    }
    return {};
  }

 private:
  [[nodiscard]] const std::vector<OpenTable>& opened(TableKind kind) const {
    return tables_[static_cast<std::size_t>(kind)];
  }
  [[nodiscard]] bool is_joined_otherwise(TableKind one) const {
    return std::any_of(plan_.joins.begin(), plan_.joins.end(),
                       [&](const auto& join) { return join.first.second == one; });
  }
  /// Whether all sources of the table have the column.
  [[nodiscard]] bool has(TableKind kind, std::string_view name) const {
    return std::all_of(opened(kind).begin(), opened(kind).end(),
                       [&](const OpenTable& part) { return part.has(name); });
  }

  /// Whether a table must have the role itself: its id, unless it is joined by other columns, and for lines
  /// all roles that no other table provides.
  [[nodiscard]] bool needs(TableKind kind, std::string_view role) const {
    const bool is_order_id = role == daybook::role::kOrderId;
    if (kind == TableKind::lines)
      return opened(TableKind::orders).empty() || !has(TableKind::orders, role) ||
             (is_order_id && !is_joined_otherwise(TableKind::orders));
    if (kind == TableKind::orders && !is_order_id) return !has(TableKind::lines, role);
    return !is_joined_otherwise(kind);
  }

  [[nodiscard]] std::vector<std::string> missing_in(const OpenTable& part) const {
    std::vector<std::string> missing;
    for (const RoleInfo& role : roles()) {
      const bool is_possible = role.may_stand_in.at(static_cast<std::size_t>(part.kind));
      if (role.needed && is_possible && !part.has(role.name) && needs(part.kind, role.name))
        missing.emplace_back(role.name);
    }
    return missing;
  }

  const IntakePlan& plan_;
  const OpenTables& tables_;
};

}  // namespace

OrError<OpenTables> open_tables(const IntakePlan& plan) {
  OpenTables tables(kTableKinds);
  for (std::size_t kind = 0; kind < kTableKinds; ++kind) {
    if (!plan.tables[kind]) continue;
    for (const SourcePlan& from : plan.tables[kind]->from) {
      PEAR_ASSIGN(OpenTable table, open_table(static_cast<TableKind>(kind), from));
      tables[kind].push_back(std::move(table));
    }
  }
  PEAR_TRY(RoleCheck(plan, tables).run());
  return tables;
}

}  // namespace pear::intake
