#include "storage/daybook_info.hpp"

#include <cerrno>
#include <charconv>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <optional>
#include <utility>
#include <vector>

#include <fmt/format.h>

#include "base/text.hpp"
#include "storage/schema.hpp"

namespace pear::storage {
namespace {

constexpr std::string_view kMagic{"SQLite format 3\0", 16};

std::optional<daybook::Level> level_named(std::string_view name) {
  for (const daybook::Level level :
       {daybook::Level::line, daybook::Level::order, daybook::Level::customer, daybook::Level::product}) {
    if (daybook::to_text(level) == name) return level;
  }
  return std::nullopt;
}

std::optional<daybook::ColumnType> type_named(std::string_view name) {
  for (const daybook::ColumnType type :
       {daybook::ColumnType::text, daybook::ColumnType::decimal, daybook::ColumnType::date,
        daybook::ColumnType::time, daybook::ColumnType::flag}) {
    if (daybook::to_text(type) == name) return type;
  }
  return std::nullopt;
}

class InfoReader {
 public:
  InfoReader(sqlite::Database& database, const std::string& path) : database_(database) { info_.path = path; }

  OrError<void> read();
  DaybookInfo take() { return std::move(info_); }

 private:
  OrError<void> read_about();
  OrError<void> read_columns();
  OrError<void> read_provenance();

  sqlite::Database& database_;
  DaybookInfo info_;
};

OrError<void> InfoReader::read() {
  PEAR_TRY(read_about());
  PEAR_TRY(read_columns());
  return read_provenance();
}

OrError<void> InfoReader::read_about() {
  PEAR_ASSIGN(sqlite::Statement rows, database_.prepare("SELECT key, value FROM about"));
  std::uint32_t version = 0;
  const std::vector<std::pair<std::string_view, std::uint32_t*>> numbers = {{"format_version", &version},
                                                                            {"customers", &info_.customers},
                                                                            {"orders", &info_.orders},
                                                                            {"lines", &info_.lines},
                                                                            {"products", &info_.products}};
  for (;;) {
    PEAR_ASSIGN(const bool more, rows.step());
    if (!more) break;
    const std::string_view value = rows.text(1);
    if (rows.text(0) == "fingerprint") info_.fingerprint = std::string(value);
    if (rows.text(0) == "shop") info_.provenance.shop = std::string(value);
    if (rows.text(0) == "currency") info_.provenance.currency = std::string(value);
    for (const auto& [key, number] : numbers) {
      if (rows.text(0) == key) std::from_chars(value.data(), value.data() + value.size(), *number);
    }
  }
  if (version > kFormatVersion)
    return data_error(
        fmt::format("{} has daybook format {}; this pear-thread reads formats up to {}. Use a newer one.",
                    info_.path, version, kFormatVersion));
  if (version > 0 && version < kFormatVersion)
    return data_error(fmt::format(
        "{} has daybook format {}, which is no longer read. Import its sources again.", info_.path, version));
  if (version == 0) return damaged_daybook(info_.path, "it does not contain its format");
  return {};
}

OrError<void> InfoReader::read_columns() {
  PEAR_ASSIGN(sqlite::Statement rows,
              database_.prepare("SELECT name, level, type, distinct_texts FROM columns"
                                " ORDER BY position"));
  for (;;) {
    PEAR_ASSIGN(const bool more, rows.step());
    if (!more) return {};
    const auto level = level_named(rows.text(1));
    const auto type = type_named(rows.text(2));
    if (!level || !type)
      return damaged_daybook(info_.path,
                             fmt::format("its column {} has no known level and type", rows.text(0)));
    info_.columns.push_back(
        {std::string(rows.text(0)), *level, *type, static_cast<std::size_t>(rows.integer(3))});
  }
}

OrError<void> InfoReader::read_provenance() {
  PEAR_ASSIGN(sqlite::Statement runs,
              database_.prepare("SELECT source, table_name, bytes, content_hash, rows_read, rows_kept,"
                                " rows_rejected, rows_duplicate FROM import_runs ORDER BY run"));
  for (;;) {
    PEAR_ASSIGN(const bool more, runs.step());
    if (!more) break;
    const auto number = [&](int column) { return static_cast<std::uint64_t>(runs.integer(column)); };
    info_.provenance.sources.push_back({std::string(runs.text(0)), std::string(runs.text(1)), number(2),
                                        std::string(runs.text(3)), number(4), number(5), number(6),
                                        number(7)});
  }
  PEAR_ASSIGN(sqlite::Statement counts,
              database_.prepare("SELECT what, count FROM cleaning_counts ORDER BY position"));
  for (;;) {
    PEAR_ASSIGN(const bool more, counts.step());
    if (!more) return {};
    info_.provenance.cleaning.push_back(
        {std::string(counts.text(0)), static_cast<std::uint64_t>(counts.integer(1))});
  }
}

}  // namespace

OrError<void> check_daybook_header(const std::string& path) {
  std::error_code failure;
  const auto status = std::filesystem::status(path, failure);
  if (!std::filesystem::exists(status))
    return io_error(fmt::format("cannot open {}: there is no such file.", path));
  if (std::filesystem::is_directory(status))
    return io_error(fmt::format("cannot open {}: it is a folder.", path));
  std::ifstream file(path, std::ios::binary);
  if (!file) return io_error(fmt::format("cannot open {}: {}.", path, std::strerror(errno)));
  std::string header(100, '\0');
  file.read(header.data(), static_cast<std::streamsize>(header.size()));
  header.resize(static_cast<std::size_t>(file.gcount()));
  const auto byte = [&](std::size_t at) {
    return static_cast<std::uint64_t>(static_cast<unsigned char>(header[at]));
  };
  const auto big_endian = [&](std::size_t at) {
    return byte(at) << 24U | byte(at + 1) << 16U | byte(at + 2) << 8U | byte(at + 3);
  };
  if (header.size() < 100 || !header.starts_with(kMagic) || big_endian(68) != kApplicationId)
    return data_error(fmt::format("{} is not a daybook. A daybook is made by pear-thread import.", path));
  const std::uint64_t page_size = byte(16) << 8U | byte(17);
  const std::uint64_t expected = (page_size == 1 ? 65536 : page_size) * big_endian(28);
  const std::uint64_t actual = std::filesystem::file_size(path, failure);
  if (actual < expected)
    return data_error(fmt::format("{} is cut short: it has {} of {} bytes. Copy it again, or import again.",
                                  path, with_thousands(static_cast<std::int64_t>(actual)),
                                  with_thousands(static_cast<std::int64_t>(expected))));
  return {};
}

OrError<DaybookInfo> read_daybook_info(sqlite::Database& database, const std::string& path) {
  InfoReader reader(database, path);
  PEAR_TRY(reader.read());
  return reader.take();
}

tl::unexpected<Error> damaged_daybook(const std::string& path, std::string_view what) {
  return data_error(fmt::format("{} is damaged: {}. Import again, or copy it again.", path, what));
}

}  // namespace pear::storage
