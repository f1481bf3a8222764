#include "storage/daybook_info.hpp"

#include <algorithm>
#include <cerrno>
#include <charconv>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <functional>
#include <limits>
#include <map>
#include <optional>
#include <set>
#include <system_error>
#include <utility>
#include <vector>

#include <fmt/format.h>
#include <xxhash.h>

#include "base/text.hpp"
#include "daybook/daybook.hpp"
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
  [[nodiscard]] tl::unexpected<Error> damaged(std::string_view what) const {
    return damaged_daybook(info_.path, what);
  }
  OrError<void> check_tables(std::string_view names, std::int64_t count);
  OrError<void> read_runs();
  OrError<void> read_sources();
  OrError<void> read_about();
  OrError<void> check_format() const;
  OrError<void> check_counts() const;
  OrError<void> read_columns();
  OrError<void> check_columns() const;
  OrError<void> read_provenance();

  sqlite::Database& database_;
  DaybookInfo info_;
  std::string checksum_;
};

OrError<void> InfoReader::read() {
  PEAR_TRY(check_tables("'about'", 1));
  PEAR_TRY(read_about());
  PEAR_TRY(
      info_.format < kFirstWithRuns
          ? check_tables("'columns', 'import_runs', 'cleaning_counts', 'segments', 'customers', 'products'",
                         6)
          : check_tables("'columns', 'import_runs', 'sources', 'cleaning_counts', 'segments', 'customers',"
                         " 'products'",
                         7));
  PEAR_TRY(read_columns());
  PEAR_TRY(read_provenance());
  if (info_.format >= kFirstWithChecksum && checksum_of(info_) != checksum_)
    return damaged("its description does not match its checksum");
  PEAR_TRY(check_counts());
  return check_columns();
}

/// A view instead of a table could compute rows without end.
OrError<void> InfoReader::check_tables(std::string_view names, std::int64_t count) {
  PEAR_ASSIGN(sqlite::Statement rows,
              database_.prepare(fmt::format("SELECT count(*) FROM sqlite_master WHERE type = 'table'"
                                            " AND sql LIKE 'CREATE TABLE%' AND name IN ({})",
                                            names)));
  PEAR_TRY(rows.step());
  if (rows.integer(0) != count) return damaged("one of its tables is missing, or is not a table");
  return {};
}

OrError<void> InfoReader::read_about() {
  PEAR_ASSIGN(sqlite::Statement rows, database_.prepare("SELECT key, value FROM about"));
  std::map<std::string, std::string, std::less<>> facts;
  for (;;) {
    PEAR_ASSIGN(const bool more, rows.step());
    if (!more) break;
    facts.emplace(rows.text(0), rows.text(1));
  }
  const auto text_of = [&](std::string_view key, std::string& text) {
    const auto fact = facts.find(key);
    if (fact != facts.end()) text = fact->second;
    return fact != facts.end();
  };
  const auto number_of = [&](std::string_view key, std::uint32_t& number) {
    std::string text;
    if (!text_of(key, text)) return false;
    const auto [end, fault] = std::from_chars(text.data(), text.data() + text.size(), number);
    return fault == std::errc() && end == text.data() + text.size();
  };
  if (!number_of("format_version", info_.format)) return damaged("it does not contain its format");
  PEAR_TRY(check_format());
  const bool complete = text_of("fingerprint", info_.fingerprint) && text_of("shop", info_.provenance.shop) &&
                        text_of("currency", info_.provenance.currency) &&
                        number_of("customers", info_.customers) && number_of("orders", info_.orders) &&
                        number_of("lines", info_.lines) && number_of("products", info_.products) &&
                        (info_.format < kFirstWithChecksum || text_of("checksum", checksum_));
  if (!complete) return damaged("its description is incomplete");
  if (facts.contains("sample") && !number_of("sample", info_.provenance.sample))
    return damaged("its sample is not a number");
  return {};
}

OrError<void> InfoReader::check_format() const {
  if (info_.format > kFormatVersion)
    return data_error(
        fmt::format("{} has daybook format {}; this pear-thread reads formats up to {}. Use a newer one.",
                    info_.path, info_.format, kFormatVersion));
  if (info_.format < kOldestFormat)
    return data_error(
        fmt::format("{} has daybook format {}, which is no longer read. Import its sources again.",
                    info_.path, info_.format));
  return {};
}

/// Each customer has an order, each order a line, and each product is in a line.
OrError<void> InfoReader::check_counts() const {
  const bool agree = info_.customers > 0 && info_.customers <= info_.orders && info_.orders <= info_.lines &&
                     info_.products > 0 && info_.products <= info_.lines &&
                     info_.lines < std::numeric_limits<std::uint32_t>::max();
  if (!agree) return damaged("its numbers of customers, orders, lines and products do not agree");
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
    if (!level || !type || rows.integer(3) < 0)
      return damaged(fmt::format("its column {} has no known level and type", in_quotes(rows.text(0))));
    info_.columns.push_back(
        {std::string(rows.text(0)), *level, *type, static_cast<std::size_t>(rows.integer(3))});
  }
}

OrError<void> InfoReader::check_columns() const {
  using daybook::ColumnType, daybook::Level;
  struct Required {
    std::string_view name;
    Level level;
    ColumnType type;
  };
  for (const Required& required : {Required{daybook::role::kOrderDate, Level::order, ColumnType::date},
                                   Required{daybook::role::kQuantity, Level::line, ColumnType::decimal},
                                   Required{daybook::role::kUnitPrice, Level::line, ColumnType::decimal},
                                   Required{daybook::role::kAmount, Level::line, ColumnType::decimal},
                                   Required{daybook::role::kIsReturn, Level::line, ColumnType::flag}}) {
    const bool found = std::any_of(info_.columns.begin(), info_.columns.end(), [&](const auto& column) {
      return column.name == required.name && column.level == required.level && column.type == required.type;
    });
    if (!found) return damaged(fmt::format("it has no proper column {}", required.name));
  }
  std::set<std::string_view> names = {daybook::role::kOrderId, daybook::role::kCustomerId,
                                      daybook::role::kProductId};
  for (const DaybookInfo::ColumnInfo& column : info_.columns) {
    const std::string name = in_quotes(column.name);
    if (!names.insert(column.name).second) return damaged(fmt::format("it has two columns {}", name));
    const bool is_money = column.name == daybook::role::kUnitCost || column.name == daybook::role::kListPrice;
    if (is_money && column.type != ColumnType::decimal)
      return damaged(fmt::format("its column {} does not contain numbers", name));
    if (column.name == daybook::role::kOrderTime &&
        (column.type != ColumnType::time || column.level != Level::order))
      return damaged(fmt::format("its column {} does not contain times of orders", name));
    if (column.distinct_texts >
        daybook::kEmptyCode)  // there may be more than members: texts that none has any more
      return damaged(fmt::format("its column {} has more texts than codes", name));
  }
  return {};
}

/// Older formats do not distinguish runs: what they contain counts as one.
OrError<void> InfoReader::read_runs() {
  if (info_.format < kFirstWithRuns) {
    info_.provenance.runs = {{"", info_.lines, 0, info_.lines}};
    return {};
  }
  PEAR_ASSIGN(sqlite::Statement rows, database_.prepare("SELECT command, lines_added, lines_replaced, lines"
                                                        " FROM import_runs ORDER BY run"));
  for (;;) {
    PEAR_ASSIGN(const bool more, rows.step());
    if (!more) break;
    const auto number = [&](int column) { return static_cast<std::uint64_t>(rows.integer(column)); };
    info_.provenance.runs.push_back({std::string(rows.text(0)), number(1), number(2), number(3)});
  }
  const auto& runs = info_.provenance.runs;
  if (!runs.empty() && runs.back().lines != info_.lines)
    return damaged("its runs of import do not agree with its lines");
  return {};
}

OrError<void> InfoReader::read_sources() {
  const bool old = info_.format < kFirstWithRuns;
  PEAR_ASSIGN(
      sqlite::Statement rows,
      database_.prepare(fmt::format(
          "SELECT source, table_name, bytes, content_hash, rows_read, rows_kept, rows_rejected,"
          " rows_duplicate, {} ORDER BY {}",
          old ? "0, 1 FROM import_runs" : "rows_excluded, run FROM sources", old ? "run" : "position")));
  for (;;) {
    PEAR_ASSIGN(const bool more, rows.step());
    if (!more) return {};
    const auto number = [&](int column) { return static_cast<std::uint64_t>(rows.integer(column)); };
    if (number(9) < 1 || number(9) > std::max<std::size_t>(1, info_.provenance.runs.size()))
      return damaged("its sources belong to no run of import");
    info_.provenance.sources.push_back({std::string(rows.text(0)), std::string(rows.text(1)), number(2),
                                        std::string(rows.text(3)), number(4), number(5), number(6), number(7),
                                        number(8), static_cast<std::uint32_t>(number(9))});
  }
}

OrError<void> InfoReader::read_provenance() {
  PEAR_TRY(read_runs());
  PEAR_TRY(read_sources());
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
  if (!std::filesystem::is_regular_file(status))
    return io_error(fmt::format("cannot open {}: it is not a regular file.", path));
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

std::uint32_t DaybookInfo::members(daybook::Level level) const {
  switch (level) {
    case daybook::Level::line:
      return lines;
    case daybook::Level::order:
      return orders;
    case daybook::Level::customer:
      return customers;
    case daybook::Level::product:
      return products;
  }
  return 0;
}

std::string checksum_of(const DaybookInfo& info) {
  std::string all;
  const auto add = [&](const auto& field) {
    const std::string text = fmt::format("{}", field);
    all += fmt::format("{}:{}\n", text.size(),
                       text);  // with its length, so that fields cannot run into one another
  };
  for (const std::uint32_t number : {info.format, info.customers, info.orders, info.lines, info.products})
    add(number);
  for (const std::string& text : {info.fingerprint, info.provenance.shop, info.provenance.currency})
    add(text);
  if (info.provenance.sample > 0) add(info.provenance.sample);
  add(info.columns.size());
  for (const DaybookInfo::ColumnInfo& column : info.columns) {
    add(column.name);
    add(daybook::to_text(column.level));
    add(daybook::to_text(column.type));
    add(column.distinct_texts);
  }
  const bool has_runs = info.format >= kFirstWithRuns;
  for (const daybook::ImportRun& run : info.provenance.runs) {
    if (!has_runs) break;
    add(run.command);
    for (const std::uint64_t number : {run.lines_added, run.lines_replaced, run.lines}) add(number);
  }
  add(info.provenance.sources.size());
  for (const daybook::SourceRecord& source : info.provenance.sources) {
    for (const std::string& text : {source.name, source.table, source.content_hash}) add(text);
    for (const std::uint64_t number :
         {source.bytes, source.rows_read, source.rows_kept, source.rows_rejected, source.rows_duplicate})
      add(number);
    if (!has_runs) continue;
    add(source.rows_excluded);
    add(source.run);
  }
  for (const daybook::CleaningCount& cleaning : info.provenance.cleaning) {
    add(cleaning.what);
    add(cleaning.count);
  }
  const XXH128_hash_t hash = XXH3_128bits(all.data(), all.size());
  return fmt::format("{:016x}{:016x}", hash.high64, hash.low64);
}

tl::unexpected<Error> damaged_daybook(const std::string& path, std::string_view what) {
  return data_error(fmt::format("{} is damaged: {}. Import again, or copy it again.", path, what));
}

}  // namespace pear::storage
