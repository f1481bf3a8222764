// A table of raw data in memory: typed columns, and the position of each row in its source.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "daybook/column.hpp"
#include "daybook/provenance.hpp"
#include "expression/rows/row_view.hpp"
#include "intake/read/row_batch.hpp"

namespace pear::intake {

/// Rows in which a column is empty because it cannot be computed.
struct UncomputedValues {
  std::string column;
  std::string expression;
  std::uint64_t rows = 0;
};

/// A source of a table, and its row counts.
struct SourceAccount {
  daybook::SourceRecord record;
  AmountSums sums;  ///< of lines; those dropped later are moved from kept to rejected or duplicate
  DecimalSum duplicate_amount;  ///< of lines
  DecimalSum excluded_amount;   ///< of lines
  std::uint64_t required_away =
      0;  ///< of the rows rejected, those that [[require]] leaves out, as the user wants
  std::vector<std::string> notes;
  std::vector<UncomputedValues> uncomputed;
  std::size_t part = 0;  ///< of the table's [[TABLE.from]]
};

struct RawColumn {
  std::string name;
  std::string header;
  daybook::ColumnValues
      values;  ///< dictionaries of texts are in any order and may contain texts that no row has
};

/// All arrays have a value a row. Rows are in the order of the sources and of their lines.
struct RawTable {
  TableKind kind = TableKind::lines;
  std::vector<RawColumn> columns;
  std::vector<std::uint32_t> lines;        ///< per row: its line in its source
  std::vector<std::uint32_t> source_ends;  ///< per source: the rows up to its end
  std::vector<SourceAccount> sources;

  [[nodiscard]] std::size_t rows() const { return lines.size(); }
  [[nodiscard]] std::size_t source_of(std::size_t row) const;
  [[nodiscard]] RawColumn* find(std::string_view name);
  [[nodiscard]] const RawColumn* find(std::string_view name) const;
  /// The column's texts; it must exist and be text
  [[nodiscard]] const daybook::TextValues& texts(std::string_view name) const;

  /// The columns as expressions see them. Borrows the table.
  [[nodiscard]] expression::RowView view() const;

  /// Drops the rows whose flag is 0.
  void keep(const std::vector<std::uint8_t>& flags);
  /// The row as CSV, as it was read and cleaned.
  [[nodiscard]] std::string record(std::size_t row) const;
};

}  // namespace pear::intake
