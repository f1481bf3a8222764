// From rows of text to typed sales lines: one part of a file.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "base/decimal.hpp"
#include "base/text_array.hpp"
#include "daybook/column.hpp"
#include "intake/hashed_text.hpp"
#include "intake/header_map.hpp"
#include "sources/csv_chunk.hpp"

namespace pear {

/// A row that cannot be used.
struct RejectedRow {
  std::uint64_t line = 0;  ///< of the file
  std::string column;      ///< header of the column at fault; empty where it is the whole row
  std::string value;
  std::string reason;
  std::string kind;  ///< the reason as far as other rows share it
  std::string row;   ///< the whole row as CSV
};

/// A column of texts by dictionary, within one batch.
struct BatchTexts {
  std::vector<std::uint32_t> codes;  ///< one a line; kEmptyCode for an empty text
  std::vector<HashedText> texts;     ///< in order of first appearance; the views are into the batch's rows
};

/// Sums of the amounts of rows where they could be read.
struct AmountSums {
  DecimalSum read;
  DecimalSum kept;
  DecimalSum rejected;
  std::uint64_t unreadable = 0;  ///< rows whose amount could not be read
};

/// Typed lines, all arrays parallel; codes are positions in the batch's own dictionaries.
struct LineBatch {
  std::unique_ptr<const CsvRows> rows;  ///< holds the bytes of the texts
  BatchTexts orders, customers, products;
  std::vector<BatchTexts> extras;  ///< as in HeaderMap::extras
  std::vector<std::int32_t> days;
  std::vector<std::int32_t> seconds;
  std::vector<std::int64_t> quantities, unit_prices, amounts;
  std::vector<std::int64_t> unit_costs, list_prices;  ///< empty where no column plays the role
  std::vector<std::uint8_t> is_return;
  bool any_time = false;
  std::uint64_t rows_read = 0;
  AmountSums sums;
  std::vector<RejectedRow> rejected;  ///< lines relative to the part
};

/// Reads the rows as sales lines; a row that cannot be used becomes a RejectedRow with the first reason
/// found, in the order of roles(). O(rows). Safe to call from many threads.
[[nodiscard]] LineBatch read_lines(CsvRows rows, const HeaderMap& map, const std::vector<std::string>& header,
                                   char delimiter);

}  // namespace pear
