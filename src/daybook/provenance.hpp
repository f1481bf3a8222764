// The origin of a daybook: written by the import, stored in the daybook file, shown by `status`.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace pear::daybook {

struct SourceRecord {
  std::string name;          ///< the path or address as the user gave it
  std::string table;         ///< what it contains: lines, orders, products or customers
  std::uint64_t bytes = 0;   ///< as read from disk (before decompression)
  std::string content_hash;  ///< of those bytes: XXH3, 128 bits, in hex
  std::uint64_t rows_read = 0;
  std::uint64_t rows_kept = 0;
  std::uint64_t rows_rejected = 0;
  std::uint64_t rows_duplicate = 0;  ///< dropped, because another row is identical
  bool operator==(const SourceRecord&) const = default;
};

/// One thing that the import did to the data, and how often.
struct CleaningCount {
  std::string what;
  std::uint64_t count = 0;
  bool operator==(const CleaningCount&) const = default;
};

struct Provenance {
  std::string shop;
  std::string currency;
  std::vector<SourceRecord> sources;
  std::vector<CleaningCount> cleaning;
  bool operator==(const Provenance&) const = default;
};

}  // namespace pear::daybook
