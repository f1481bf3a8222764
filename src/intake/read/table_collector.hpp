// Joins batches of rows into one table.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "base/dictionary.hpp"
#include "intake/read/raw_table.hpp"
#include "intake/read/row_batch.hpp"

namespace pear::intake {

/// Receives batches in order and builds a table from them. Several sources with the same column names form
/// one table. One thread at a time.
class TableCollector {
 public:
  explicit TableCollector(const TableColumns& plan);

  /// The plan's columns in a further source, by name. Error: data, if the names differ.
  [[nodiscard]] OrError<void> begin_source(const TableColumns& plan, const std::string& source);
  /// `first_line` is what to add to the batch's lines. `expected_rows` reserves memory if the number of rows
  /// is known; 0 otherwise.
  void add(const RowBatch& batch, std::uint64_t first_line, std::size_t expected_rows);
  void end_source(SourceAccount account);
  [[nodiscard]] std::size_t rows() const { return table_.rows(); }
  [[nodiscard]] RawTable take();

 private:
  struct Column {
    PlannedColumn planned;
    std::size_t place = 0;  // in the batches of the current source
    Dictionary dictionary;
    std::vector<std::uint32_t> codes;
    std::vector<std::int64_t> units;
    std::vector<std::int32_t> days, seconds;
    bool any_time = false;
  };
  void add_moments(Column& column, const BatchColumn& batch, std::size_t before, std::size_t expected_rows);

  TableKind kind_;
  std::deque<Column> columns_;
  std::vector<std::int64_t> amounts_;
  std::string first_source_;
  RawTable table_;
};

}  // namespace pear::intake
