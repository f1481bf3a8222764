// Writes the pages of arrays into a daybook file.
#pragma once

#include <string>
#include <string_view>

#include "base/error.hpp"
#include "storage/schema.hpp"
#include "storage/sqlite.hpp"

namespace pear::storage {

/// The table `segments` of a new daybook file. The order of the pages determines the fingerprint: arrays in
/// the order of the structure and then of the columns, each from its first page.
class SegmentTable {
 public:
  /// The table must exist. Errors, here and below: io.
  [[nodiscard]] static OrError<SegmentTable> make(sqlite::Database& database);
  [[nodiscard]] OrError<void> add(std::string_view array, std::size_t number, const Page& page);
  /// Makes the index; returns the fingerprint.
  [[nodiscard]] OrError<std::string> finish();

 private:
  SegmentTable(sqlite::Database& database, sqlite::Statement insert)
      : database_(&database), insert_(std::move(insert)) {}
  sqlite::Database* database_;
  sqlite::Statement insert_;
  Fingerprint fingerprint_;
};

}  // namespace pear::storage
