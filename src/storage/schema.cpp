#include "storage/schema.hpp"

#include <fmt/format.h>
#include <xxhash.h>

namespace pear::storage {

const char* const kSchema = R"sql(
CREATE TABLE about (key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE columns (position INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, level TEXT NOT NULL,
                      type TEXT NOT NULL, distinct_texts INTEGER);
CREATE TABLE import_runs (run INTEGER PRIMARY KEY, command TEXT NOT NULL, lines_added INTEGER NOT NULL,
                          lines_replaced INTEGER NOT NULL, lines INTEGER NOT NULL);
CREATE TABLE sources (position INTEGER PRIMARY KEY, run INTEGER NOT NULL, source TEXT NOT NULL,
                      bytes INTEGER NOT NULL, content_hash TEXT NOT NULL, table_name TEXT NOT NULL,
                      rows_read INTEGER NOT NULL, rows_kept INTEGER NOT NULL, rows_duplicate INTEGER NOT NULL,
                      rows_excluded INTEGER NOT NULL, rows_rejected INTEGER NOT NULL);
CREATE TABLE cleaning_counts (position INTEGER PRIMARY KEY, what TEXT NOT NULL, count INTEGER NOT NULL);
CREATE TABLE segments (array TEXT NOT NULL, page INTEGER NOT NULL, members INTEGER NOT NULL,
                       codec INTEGER NOT NULL, checksum INTEGER NOT NULL, bytes BLOB NOT NULL);
)sql";

std::string_view waiting_table(daybook::Level level) {
  return level == daybook::Level::customer ? "customers_without_lines" : "products_without_lines";
}

namespace array_name {
std::string of_column(std::string_view column) { return fmt::format("column.{}", column); }
std::string of_dictionary(std::string_view column) { return fmt::format("column.{}.dictionary", column); }
}  // namespace array_name

std::vector<std::uint32_t> counts_of(const std::vector<std::uint32_t>& offsets) {
  std::vector<std::uint32_t> counts;
  counts.reserve(offsets.size());
  for (std::size_t i = 1; i < offsets.size(); ++i) counts.push_back(offsets[i] - offsets[i - 1]);
  return counts;
}

void Fingerprint::add(std::string_view array, const Page& page) {
  seen_ += fmt::format("{} {} {:016x}\n", array, page.members, page.checksum);
}

std::string Fingerprint::hex() const {
  const XXH128_hash_t hash = XXH3_128bits(seen_.data(), seen_.size());
  return fmt::format("{:016x}{:016x}", hash.high64, hash.low64);
}

}  // namespace pear::storage
