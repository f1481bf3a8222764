// The rows of all sources of a table.
#pragma once

#include <cstddef>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "intake/clean/intake_log.hpp"
#include "intake/clean/text_forms.hpp"
#include "intake/open_tables.hpp"
#include "intake/plan/intake_plan.hpp"
#include "intake/read/raw_table.hpp"

namespace pear::intake {

/// The columns to compute for a [[TABLE.from]], in order: those of the plan, and prices from amounts.
[[nodiscard]] std::vector<ComputedColumn> computed_columns(const SourcePlan& plan, const OpenTable& opened);

/// Computes the columns of the rows that one [[TABLE.from]] gave, and adds the rows to those before. The
/// formats of texts must have been unified. Errors: those of compute_columns.
[[nodiscard]] OrError<void> add_source_rows(const std::vector<ComputedColumn>& computed, std::size_t part,
                                            RawTable rows, std::optional<RawTable>& all, IntakeLog& log);

/// Reads the table of all [[TABLE.from]], each in its own way, into `all`. Adds to `notes`. Errors: those of
/// read_table and compute_columns.
[[nodiscard]] OrError<void> read_all(const TablePlan& plan, std::vector<OpenTable> opened,
                                     std::optional<RawTable>& all, IntakeLog& log,
                                     std::vector<std::string>& notes);

}  // namespace pear::intake
