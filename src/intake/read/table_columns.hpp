// The role of each column of a source, and how its cells are read.
#pragma once

#include <string>
#include <unordered_map>
#include <unordered_set>
#include <vector>

#include "base/error.hpp"
#include "intake/plan/role.hpp"

namespace pear::intake {

/// Reads "order_id=Order No,order_date=\"Placed, at\"": pairs separated by commas, headers with a comma in
/// double quotes. Errors: usage, for anything that is not such a pair, or not a role.
[[nodiscard]] OrError<std::vector<std::pair<std::string, std::string>>> parse_assignments(
    std::string_view text);

/// The cleaning of a column's cells before they are read.
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
  MomentFormat dates;
  NumberFormat numbers;
  std::vector<std::string> skip_rows;  ///< patterns, see skip_rows()
  std::string skip_if;                 ///< a condition on the texts of the columns
  std::vector<std::string> computed;   ///< names of columns that are computed once the table has been read
  bool has_price_from_amount = false;  ///< unit_price among them: lines with amounts, but without a price
  std::vector<std::string> notes;      ///< names that had to be invented or changed

  /// Position in `columns`; columns.size() if there is none.
  [[nodiscard]] std::size_t find(std::string_view name) const;
  [[nodiscard]] bool is_computed(std::string_view name) const;
};

/// The name of a column without a role: snake_case, but customer_name and product_name, because "name" is
/// ambiguous once the tables are joined.
[[nodiscard]] std::string plain_name(TableKind table, const std::string& header);

/// Finds the roles of columns: from the plan, otherwise by name ("Order ID" is order_id). All other columns
/// are kept under their snake_case name; a blank one is column_N, a duplicate name gets a number. The caller
/// checks which roles are missing. Errors: data (usage if `is_command_line`, by its name), for a column that
/// the source does not have.
[[nodiscard]] OrError<TableColumns> plan_columns(TableKind table, const SourcePlan& plan,
                                                 const std::vector<std::string>& header,
                                                 const std::string& source);

/// "Its columns are ...", with a suggestion for each missing role, in the form of the intake file, or of the
/// command line if there is none. `missing` must not be empty.
[[nodiscard]] tl::unexpected<Error> missing_roles(const std::vector<std::string>& missing,
                                                  const TableColumns& columns, const std::string& source,
                                                  const std::string& intake_file);

}  // namespace pear::intake
