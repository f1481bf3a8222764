// Where the rows of a table go while its sources are read.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>

#include "base/error.hpp"
#include "intake/read/raw_table.hpp"
#include "intake/read/row_batch.hpp"

namespace pear::intake {

/// Receives batches in order. Several sources with the same column names form one table. One thread at a
/// time.
class RowReceiver {
 public:
  virtual ~RowReceiver() = default;
  /// The plan's columns in a further source, by name. Error: data, if the names differ.
  [[nodiscard]] virtual OrError<void> begin_source(const TableColumns& plan, const std::string& source) = 0;
  /// `first_line` is what to add to the batch's lines. `expected_rows`: how many the table will probably
  /// have; 0 if that is unknown. Errors: io.
  [[nodiscard]] virtual OrError<void> add(const RowBatch& batch, std::uint64_t first_line,
                                          std::size_t expected_rows) = 0;
  [[nodiscard]] virtual OrError<void> end_source(SourceAccount account) = 0;
  [[nodiscard]] virtual std::size_t rows() const = 0;
};

}  // namespace pear::intake
