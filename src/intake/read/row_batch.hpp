// From rows of text to typed columns: one part of a source.
#pragma once

#include <deque>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "base/decimal.hpp"
#include "base/hashed_text.hpp"
#include "daybook/column.hpp"
#include "intake/read/table_columns.hpp"
#include "sources/csv_chunk.hpp"

namespace pear::intake {

/// A row that cannot be used.
struct RejectedRow {
  std::string source;
  std::uint64_t line = 0;  ///< of the source
  std::string column;      ///< header of the column at fault; empty if it is the whole row
  std::string value;
  std::string reason;
  std::string kind;  ///< the part of the reason that other rows share
  std::string row;   ///< the whole row as CSV
};

/// A cell that cleaning changed.
struct ChangedCell {
  std::string source;
  std::uint64_t line = 0;
  std::string column;  ///< our name
  std::string before, after;
  std::string_view step;  ///< "trim", "empty_as", "replace", "fold_case", "same_customer", "round"
};

/// A column of texts by dictionary, within one batch.
struct BatchTexts {
  std::vector<std::uint32_t> codes;  ///< one a row; kEmptyCode for an empty text
  std::vector<HashedText> texts;     ///< in order of first appearance; the views are into the batch
};

/// A currency's sign in the numbers of a column, and where it was seen first.
struct SeenCurrency {
  std::string sign;
  std::string value;
  std::uint64_t line = 0;
};

/// One of the arrays is filled, by the column's kind; of a moment both days and seconds.
struct BatchColumn {
  BatchTexts texts;
  std::vector<std::int64_t> units;
  std::vector<std::int32_t> days, seconds;
  bool any_time = false;
  std::vector<SeenCurrency> currencies;  ///< different ones; lines relative to the part
};

/// Sums of the amounts of rows, as far as they could be read.
struct AmountSums {
  DecimalSum read;
  DecimalSum kept;
  DecimalSum rejected;
  std::uint64_t unreadable = 0;  ///< rows whose amount could not be read
};

/// Typed rows; codes are positions in the batch's own dictionaries.
struct RowBatch {
  std::unique_ptr<const sources::CsvRows> rows;  ///< holds the bytes of the texts
  std::deque<std::string> cleaned;               ///< texts that cleaning created
  std::vector<BatchColumn> columns;              ///< as in TableColumns
  std::vector<std::int64_t> amounts;  ///< of lines: the amount as given, otherwise quantity times price
  std::vector<std::uint64_t> lines;   ///< per row kept: its line relative to the part
  std::uint64_t rows_read = 0;
  std::uint64_t rows_skipped = 0;  ///< by the plan's patterns; not among those read
  AmountSums sums;
  std::vector<RejectedRow> rejected;  ///< in order; lines relative to the part
  std::vector<ChangedCell> changed;   ///< of rows kept; lines relative to the part
};

/// Cleans and reads the rows; a row that cannot be used becomes a RejectedRow with the first reason found, in
/// the order of the plan's columns. O(cells). Several threads may call it.
[[nodiscard]] RowBatch read_rows(sources::CsvRows rows, const TableColumns& plan, char delimiter);

}  // namespace pear::intake
