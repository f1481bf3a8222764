// A table of an SQL database, row by row.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/error.hpp"
#include "database/address.hpp"
#include "sources/ordered_parts.hpp"

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
  [[nodiscard]] OrError<void> for_each_part(Convert convert, Collect collect) {
    return for_each_ordered_part([&] { return next_rows(); },
                                 [](CsvRows rows) -> OrError<CsvRows> { return rows; }, convert,
                                 [&](auto converted) { collect(std::move(converted), std::uint64_t{0}); });
  }

 private:
  QueryReader() = default;
  /// The next rows, numbered from 1; nothing after the last.
  [[nodiscard]] OrError<std::optional<CsvRows>> next_rows();
  [[nodiscard]] tl::unexpected<Error> too_long(std::size_t column, std::string_view limit) const;

  struct Cursor;
  struct CursorDeleter {
    void operator()(Cursor* cursor) const;
  };
  database::DatabaseAddress address_;
  std::string name_;
  std::vector<std::string> header_;
  std::unique_ptr<Cursor, CursorDeleter> cursor_;
  std::uint64_t bytes_ = 0, rows_read_ = 0;
};

}  // namespace pear::sources
