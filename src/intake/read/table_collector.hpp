// Joins batches of rows into one table.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "base/dictionary.hpp"
#include "intake/read/column_match.hpp"
#include "intake/read/raw_table.hpp"
#include "intake/read/row_batch.hpp"
#include "intake/read/row_receiver.hpp"

namespace pear::intake {

/// Builds a table in memory.
class TableCollector : public RowReceiver {
 public:
  explicit TableCollector(const TableColumns& plan);

  [[nodiscard]] OrError<void> begin_source(const TableColumns& plan, const std::string& source) override;
  [[nodiscard]] OrError<void> add(const RowBatch& batch, std::uint64_t first_line,
                                  std::size_t expected_rows) override;
  [[nodiscard]] OrError<void> end_source(SourceAccount account) override;
  [[nodiscard]] std::size_t rows() const override { return table_.rows(); }
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
  ColumnMatch match_;
  std::deque<Column> columns_;
  std::vector<std::int64_t> amounts_;
  RawTable table_;
};

}  // namespace pear::intake
