// Reads the sources of a table of raw data.
#pragma once

#include <vector>

#include "base/error.hpp"
#include "intake/clean/intake_log.hpp"
#include "intake/read/raw_table.hpp"
#include "intake/read/row_receiver.hpp"
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

/// Reads all rows; those that cannot be used go to the log. Errors: those of the sources, of the receiver and
/// of the log's hooks.
[[nodiscard]] OrError<void> read_rows_of(OpenTable& table, RowReceiver& receiver, IntakeLog& log);

/// Error: data if not one row of a table can be used; customers, products and prices may be empty.
[[nodiscard]] OrError<void> check_any_kept(TableKind kind, std::size_t rows,
                                           const std::vector<SourceAccount>& sources, const IntakeLog& log);

/// Both, into memory.
[[nodiscard]] OrError<RawTable> read_table(OpenTable table, IntakeLog& log);

}  // namespace pear::intake
