#include "sources/spreadsheet/sheet_reader.hpp"

#include <charconv>
#include <filesystem>
#include <utility>

#include <fmt/format.h>
#include <xxhash.h>

#include "base/text.hpp"
#include "sources/spreadsheet/ods.hpp"
#include "sources/spreadsheet/xlsx.hpp"

namespace pear::sources {
namespace {

OrError<std::unique_ptr<Workbook>> open_workbook(const ZipArchive& archive) {
  if (is_xlsx(archive)) return open_xlsx(archive);
  if (is_ods(archive)) return open_ods(archive);
  if (archive.has("xl/workbook.bin"))
    return data_error(fmt::format(
        "{} is a binary workbook (.xlsb), which cannot be read. Save it as .xlsx or .csv.", archive.path()));
  return data_error(
      fmt::format("{} is a zip archive, not a table. Unpack it and name the files in it.", archive.path()));
}

/// The position of the sheet that is wanted.
OrError<std::size_t> chosen_sheet(const std::vector<std::string>& sheets, const std::string& wanted,
                                  const std::string& path) {
  for (std::size_t i = 0; i < sheets.size(); ++i) {
    if (sheets[i] == wanted) return i;
  }
  std::size_t number = 0;
  const auto [end, fault] = std::from_chars(wanted.data(), wanted.data() + wanted.size(), number);
  const bool is_number = fault == std::errc() && end == wanted.data() + wanted.size();
  if (is_number && number >= 1 && number <= sheets.size()) return number - 1;
  if (wanted.empty() && sheets.size() == 1) return 0;
  std::vector<std::string> quoted;
  for (const std::string& sheet : sheets) quoted.push_back(in_quotes(sheet));
  if (sheets.empty()) return data_error(fmt::format("{} has no sheet with cells.", path));
  if (wanted.empty())
    return data_error(
        fmt::format("{} has {}: {}. Choose one with sheet = {}, or {}?sheet=NAME on the command line.", path,
                    counted(sheets.size(), "sheet"), join(quoted, ", "), quoted.front(), path));
  return data_error(fmt::format("{} has no sheet {}. Its {}: {}.{}", path, in_quotes(wanted),
                                sheets.size() == 1 ? "only sheet is" : "sheets are", join(quoted, ", "),
                                did_you_mean(wanted, sheets)));
}

/// XXH3 of the file's bytes and the sheet's name.
OrError<std::string> hash_of(const std::string& path, const std::string& sheet) {
  PEAR_ASSIGN(const auto file, open_bytes(path));
  std::string block(std::size_t{1} << 18U, '\0');
  for (std::size_t count = 1; count > 0;) {
    PEAR_ASSIGN(count, file->read(block));
  }
  const std::string both = file->content_hash() + sheet;
  const XXH128_hash_t hash = XXH3_128bits(both.data(), both.size());
  return fmt::format("{:016x}{:016x}", hash.high64, hash.low64);
}

}  // namespace

OrError<std::vector<std::string>> sheet_names(const std::string& path, std::uint64_t largest_expansion) {
  PEAR_ASSIGN(const ZipArchive archive, ZipArchive::open(path, largest_expansion));
  PEAR_ASSIGN(const auto workbook, open_workbook(archive));
  return workbook->sheets();
}

OrError<SheetReader> SheetReader::open_sheet(const TableAddress& address) {
  SheetReader reader;
  PEAR_ASSIGN(ZipArchive archive, ZipArchive::open(address.file, address.largest_expansion));
  reader.archive_ = std::make_unique<ZipArchive>(std::move(archive));
  PEAR_ASSIGN(reader.workbook_, open_workbook(*reader.archive_));
  const std::vector<std::string>& sheets = reader.workbook_->sheets();
  PEAR_ASSIGN(const std::size_t position, chosen_sheet(sheets, address.sheet, address.file));
  reader.name_ =
      sheets.size() == 1 ? address.file : fmt::format("{}, sheet {}", address.file, sheets[position]);
  std::error_code ignored;
  reader.bytes_ = std::filesystem::file_size(address.file, ignored);
  PEAR_ASSIGN(reader.content_hash_, hash_of(address.file, sheets[position]));
  PEAR_ASSIGN(reader.sheet_, reader.workbook_->open(position));
  return reader;
}

OrError<SheetReader> SheetReader::open(const TableAddress& address) {
  PEAR_ASSIGN(SheetReader reader, open_sheet(address));
  PEAR_TRY(reader.read_header(address.header_line));
  return reader;
}

OrError<std::vector<PlainRow>> SheetReader::first_rows(const TableAddress& address, std::size_t most) {
  PEAR_ASSIGN(SheetReader reader, open_sheet(address));
  FirstRows rows(most);
  while (rows.rows().size() < most) {
    PEAR_ASSIGN(auto part, reader.next());
    if (!part) break;
    PEAR_TRY(reader.read(std::move(*part), rows));
  }
  return rows.rows();
}

OrError<void> SheetReader::read_header(std::uint64_t header_line) {
  bool any = false;
  for (;;) {
    PEAR_ASSIGN(first_, sheet_->next());
    if (!first_) break;
    FirstRows rows(kMostSheetRows);
    PEAR_TRY(read(*first_, rows));
    any |= !rows.rows().empty();
    for (const PlainRow& row : rows.rows()) {
      if (header_line > row.number) continue;
      if (header_line == 0 || header_line == row.number) header_ = row;
      if (header_.cells.empty()) break;  // beyond it
      return {};
    }
  }
  if (header_line == 0 || !any) return {};
  return data_error(fmt::format("{} has no cells in row {}, where header_line = {} says the header is.",
                                name_, header_line, header_line));
}

OrError<std::optional<SheetPart>> SheetReader::next() {
  if (first_) return std::exchange(first_, std::nullopt);
  return sheet_->next();
}

OrError<void> SheetReader::read(SheetPart part, CellSink& into) const {
  auto done = sheet_->read(std::move(part), into);
  if (done) return done;
  return data_error(fmt::format("{} is damaged: {}. Save the workbook again.", name_, done.error().message));
}

OrError<CsvRows> SheetReader::rows_of(SheetPart part) const {
  SheetRows rows(header_.cells.size(), header_.number);
  PEAR_TRY(read(std::move(part), rows));
  return rows.take();
}

}  // namespace pear::sources
