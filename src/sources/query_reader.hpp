// A table of an SQL database, row by row.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

#include <tbb/parallel_pipeline.h>

#include "base/error.hpp"
#include "database/address.hpp"
#include "sources/csv_chunk.hpp"

namespace pear::sources {

/// The rows of a query, every value as the database itself writes it as text: so a number has all its digits,
/// and a date is ISO 8601. Empty texts and NULL are both empty.
class QueryReader {
 public:
  /// `query` is one SELECT; `table` is its name if it is a whole table, for messages. Errors: io, with the
  /// database's message.
  [[nodiscard]] static OrError<QueryReader> open(const database::DatabaseAddress& address,
                                                 const std::string& query, const std::string& table = "");
  QueryReader(QueryReader&&) = default;

  [[nodiscard]] const std::vector<std::string>& header() const { return header_; }
  [[nodiscard]] const std::string& name() const { return name_; }
  /// XXH3 (128 bits, hex) of all values read so far.
  [[nodiscard]] std::string content_hash() const;
  [[nodiscard]] std::uint64_t bytes_taken() const { return bytes_; }

  /// As CsvReader::for_each_part; rows are numbered from 1 instead of lines.
  template <class Convert, class Collect>
  [[nodiscard]] OrError<void> for_each_part(Convert convert, Collect collect);

 private:
  QueryReader() = default;
  /// The next rows; none at the end.
  [[nodiscard]] OrError<CsvRows> next_rows();
  [[nodiscard]] tl::unexpected<Error> too_long(std::size_t column, std::string_view limit) const;

  struct Cursor;
  struct CursorDeleter {
    void operator()(Cursor* cursor) const;
  };
  database::DatabaseAddress address_;
  std::string name_;
  std::vector<std::string> header_;
  std::unique_ptr<Cursor, CursorDeleter> cursor_;
  std::uint64_t bytes_ = 0;
};

template <class Convert, class Collect>
OrError<void> QueryReader::for_each_part(Convert convert, Collect collect) {
  using Converted = std::invoke_result_t<Convert, CsvRows>;
  struct Work {
    CsvRows rows;
    std::uint64_t first_row = 0;
    std::shared_ptr<Converted> converted;
  };
  OrError<void> outcome;
  std::uint64_t rows_read = 0;
  const auto read = [&](tbb::flow_control& control) -> std::shared_ptr<Work> {
    auto rows = next_rows();
    if (rows && rows->size() > 0) {
      const std::uint64_t first = rows_read + 1;
      rows_read += rows->size();
      return std::make_shared<Work>(Work{std::move(*rows), first, nullptr});
    }
    if (!rows) outcome = tl::unexpected(std::move(rows).error());
    control.stop();
    return nullptr;
  };
  const auto convert_rows = [&](std::shared_ptr<Work> work) {
    work->converted = std::make_shared<Converted>(convert(std::move(work->rows)));
    return work;
  };
  const auto settle = [&](const std::shared_ptr<Work>& work) {
    collect(std::move(*work->converted), work->first_row);
  };
  constexpr std::size_t kPartsAtOnce = 4;
  using Handed = std::shared_ptr<Work>;
  tbb::parallel_pipeline(kPartsAtOnce,
                         tbb::make_filter<void, Handed>(tbb::filter_mode::serial_in_order, read) &
                             tbb::make_filter<Handed, Handed>(tbb::filter_mode::parallel, convert_rows) &
                             tbb::make_filter<Handed, void>(tbb::filter_mode::serial_in_order, settle));
  return outcome;
}

}  // namespace pear::sources
