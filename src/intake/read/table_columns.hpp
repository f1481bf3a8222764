// Which column of a source plays which part, and how its cells are read.
#pragma once

#include <string>
#include <unordered_map>
#include <unordered_set>
#include <vector>

#include "base/error.hpp"
#include "intake/plan/role.hpp"

namespace pear::intake {

/// Reads "order_id=Order No,order_date=\"Placed, at\"": pairs behind commas, headers in double quotes where
/// they hold a comma. Errors: usage, for what is not such a pair, or names no role.
[[nodiscard]] OrError<std::vector<std::pair<std::string, std::string>>> parse_assignments(
    std::string_view text);

/// What is done to the cells of a column before they are read.
struct CellCleaning {
  bool trim = false;
  std::unordered_set<std::string> empty_as;
  std::unordered_map<std::string, std::string> replace;
  [[nodiscard]] bool any() const { return trim || !empty_as.empty() || !replace.empty(); }
};

struct PlannedColumn {
  std::size_t position = 0;  ///< in the source
  std::string header;
  std::string name;  ///< a role's, or the header in snake_case; unique in the table
  ColumnKind kind = ColumnKind::text;
  bool is_role = false;
  bool needs_value = false;  ///< a row without one cannot be used
  CellCleaning cleaning;
};

struct TableColumns {
  TableKind table = TableKind::lines;
  std::vector<PlannedColumn> columns;  ///< roles first, in the order of roles(); the others as in the source
  std::vector<std::string> date_formats;
  NumberFormat numbers;
  std::vector<std::string> notes;  ///< names that had to be made up or changed

  /// Position in `columns`; columns.size() where there is none.
  [[nodiscard]] std::size_t find(std::string_view name) const;
};

/// What a column that plays no role is called: snake_case, but customer_name and product_name, since "name"
/// alone says too little once the tables stand together.
[[nodiscard]] std::string plain_name(TableKind table, const std::string& header);

/// Finds the parts that columns play: as the plan says, otherwise by name ("Order ID" is order_id). All other
/// columns come along under their snake_case name; a blank one is column_N, a name that is taken gets a
/// number. Which roles are missing is for the caller to see. Errors: data (usage where `is_command_line`, by
/// its name), for a column that the source does not have.
[[nodiscard]] OrError<TableColumns> plan_columns(TableKind table, const TablePlan& plan,
                                                 const std::vector<std::string>& header,
                                                 const std::string& source);

/// "Its columns are ...", with a suggestion for each missing role, as the intake file takes it, or the
/// command line where there is none. `missing` must not be empty.
[[nodiscard]] tl::unexpected<Error> missing_roles(const std::vector<std::string>& missing,
                                                  const TableColumns& columns, const std::string& source,
                                                  const std::string& intake_file);

}  // namespace pear::intake
