// Batches of rows, put behind one another.
#pragma once

#include <string_view>
#include <vector>

#include "intake/read/dictionary.hpp"
#include "intake/read/raw_table.hpp"
#include "intake/read/row_batch.hpp"

namespace pear::intake {

/// Takes batches in order and makes a table of them. Several sources with the same names of columns make one
/// table. One thread at a time.
class TableCollector {
 public:
  explicit TableCollector(const TableColumns& plan);

  /// Where the plan of a further source has its columns: by name. Error: data, where the names differ.
  [[nodiscard]] OrError<void> begin_source(const TableColumns& plan, const std::string& source);
  /// `first_line` is what to add to the batch's lines. `expected_rows` reserves memory where it is known how
  /// many there will be; 0 otherwise.
  void add(const RowBatch& batch, std::uint64_t first_line, std::size_t expected_rows);
  void end_source(SourceAccount account);
  [[nodiscard]] std::size_t rows() const { return table_.rows(); }
  [[nodiscard]] RawTable take();

 private:
  struct Column {
    PlannedColumn planned;
    std::size_t place = 0;  // in the batches of the source that is read
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
  RawTable table_;
};

}  // namespace pear::intake
