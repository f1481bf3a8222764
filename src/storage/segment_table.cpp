#include "storage/segment_table.hpp"

#include <utility>

namespace pear::storage {

OrError<SegmentTable> SegmentTable::make(sqlite::Database& database) {
  PEAR_ASSIGN(sqlite::Statement insert, database.prepare("INSERT INTO segments VALUES (?, ?, ?, ?, ?, ?)"));
  return SegmentTable(database, std::move(insert));
}

OrError<void> SegmentTable::add(std::string_view array, std::size_t number, const Page& page) {
  insert_.bind(1, array).bind(2, static_cast<std::int64_t>(number)).bind(3, std::int64_t{page.members});
  insert_.bind(4, static_cast<std::int64_t>(page.codec)).bind(5, static_cast<std::int64_t>(page.checksum));
  PEAR_TRY(insert_.bind_blob(6, page.bytes).run());
  fingerprint_.add(array, page);
  return {};
}

OrError<std::string> SegmentTable::finish() {
  PEAR_TRY(database_->execute("CREATE UNIQUE INDEX segments_by_place ON segments (array, page)"));
  return fingerprint_.hex();
}

}  // namespace pear::storage
