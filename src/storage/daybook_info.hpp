// What a daybook file says of itself, apart from the arrays in it.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"
#include "daybook/column.hpp"
#include "daybook/provenance.hpp"
#include "storage/sqlite.hpp"

namespace pear::storage {

/// What a daybook file says of itself.
struct DaybookInfo {
  struct ColumnInfo {
    std::string name;
    daybook::Level level = daybook::Level::line;
    daybook::ColumnType type = daybook::ColumnType::text;
    std::size_t distinct_texts = 0;  ///< of a text column
    bool operator==(const ColumnInfo&) const = default;
  };
  std::string path;
  std::string fingerprint;
  std::uint32_t customers = 0;
  std::uint32_t orders = 0;
  std::uint32_t lines = 0;
  std::uint32_t products = 0;
  std::vector<ColumnInfo> columns;
  daybook::Provenance provenance;
};

/// Looks at the header of an SQLite file: is it one of ours, and is the file as long as it says?
/// Errors: io where there is no such file or it cannot be read; data otherwise.
[[nodiscard]] OrError<void> check_daybook_header(const std::string& path);

/// Reads the tables for people. Errors: data, for a newer format or tables that make no sense.
[[nodiscard]] OrError<DaybookInfo> read_daybook_info(sqlite::Database& database, const std::string& path);

/// "shop.daybook is damaged: ...", with the remedy.
[[nodiscard]] tl::unexpected<Error> damaged_daybook(const std::string& path, std::string_view what);

}  // namespace pear::storage
