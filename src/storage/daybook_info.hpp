// The description in a daybook file, without the arrays.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"
#include "daybook/column.hpp"
#include "daybook/provenance.hpp"
#include "storage/sqlite.hpp"

namespace pear::storage {

/// The description in a daybook file.
struct DaybookInfo {
  struct ColumnInfo {
    std::string name;
    daybook::Level level = daybook::Level::line;
    daybook::ColumnType type = daybook::ColumnType::text;
    std::size_t distinct_texts = 0;  ///< of a text column
    bool operator==(const ColumnInfo&) const = default;
  };
  std::string path;
  std::uint32_t format = 0;
  std::string fingerprint;
  std::uint32_t customers = 0;
  std::uint32_t orders = 0;
  std::uint32_t lines = 0;
  std::uint32_t products = 0;
  std::vector<ColumnInfo> columns;
  daybook::Provenance provenance;

  [[nodiscard]] std::uint32_t members(daybook::Level level) const;
};

/// Reads the header of an SQLite file and checks that it is one of ours, and as long as it says. Errors: io
/// if there is no such file or it cannot be read; data otherwise.
[[nodiscard]] OrError<void> check_daybook_header(const std::string& path);

/// Reads the readable tables, compares them with their checksum, and checks that they agree with one another.
/// Errors: data, for a newer format or tables that make no sense.
[[nodiscard]] OrError<DaybookInfo> read_daybook_info(sqlite::Database& database, const std::string& path);

/// A checksum of everything in the description (XXH3, 128 bits, hex), which the segments' checksums do not
/// cover.
[[nodiscard]] std::string checksum_of(const DaybookInfo& info);

/// "shop.daybook is damaged: ...", with the remedy.
[[nodiscard]] tl::unexpected<Error> damaged_daybook(const std::string& path, std::string_view what);

}  // namespace pear::storage
