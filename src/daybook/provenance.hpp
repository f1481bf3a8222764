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
  std::uint64_t rows_excluded = 0;   ///< left out on purpose: by [[exclude]], or replaced by a newer export
  std::uint32_t run = 1;             ///< the import that read it, from 1
  bool operator==(const SourceRecord&) const = default;
};

/// One import into a daybook; the first one created it.
struct ImportRun {
  std::string command;               ///< as typed, without paths
  std::uint64_t lines_added = 0;     ///< lines that it brought
  std::uint64_t lines_replaced = 0;  ///< lines of earlier runs that it replaced
  std::uint64_t lines = 0;           ///< of the daybook after it
  bool operator==(const ImportRun&) const = default;
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
  std::vector<ImportRun> runs;  ///< in order; the first one created the daybook
  std::uint32_t sample = 0;     ///< 1 in so many customers were imported; 0: all
  bool operator==(const Provenance&) const = default;
};

}  // namespace pear::daybook
