// Reads the sources of a table of raw data.
#pragma once

#include <vector>

#include "base/error.hpp"
#include "intake/clean/intake_log.hpp"
#include "intake/read/raw_table.hpp"
#include "intake/read/table_columns.hpp"
#include "sources/table_reader.hpp"

namespace pear::intake {

/// The sources of one table, opened: their headers have been read.
struct OpenTable {
  TableKind kind = TableKind::lines;
  std::vector<sources::TableReader> readers;
  std::vector<TableColumns> plans;  ///< one for each reader
  std::vector<std::string> notes;   ///< about sources that are empty
  std::vector<bool> only_header;    ///< for each reader whether its rows are left out

  /// Whether it has a column of this name, from its sources or computed.
  [[nodiscard]] bool has(std::string_view name) const {
    return plans.front().find(name) < plans.front().columns.size() || plans.front().is_computed(name);
  }
};

/// Errors: those of TableReader and plan_columns.
[[nodiscard]] OrError<OpenTable> open_table(TableKind kind, const SourcePlan& plan);

/// Reads all rows; those that cannot be used go to the log. Errors: those of the sources and of the log's
/// hooks; data if not one row can be used.
[[nodiscard]] OrError<RawTable> read_table(OpenTable table, IntakeLog& log);

}  // namespace pear::intake
