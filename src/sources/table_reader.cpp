#include "sources/table_reader.hpp"

#include <fmt/format.h>

#include "base/text.hpp"
#include "sources/file_kind.hpp"

namespace pear::sources {
namespace {
// Text files have a delimiter and a source of bytes; the other readers share one interface.
template <class OfText, class OfOther>
struct Either : OfText, OfOther {
  using OfText::operator();
  using OfOther::operator();
};
template <class OfText, class OfOther>
Either(OfText, OfOther) -> Either<OfText, OfOther>;
}  // namespace

OrError<std::vector<TableAddress>> tables_of_file(const std::string& word) {
  const TableAddress address = file_address(word);
  std::vector<TableAddress> tables;
  if (address.sheet.empty() && kind_of(front_of_file(address.file)) == FileKind::archive) {
    PEAR_ASSIGN(const auto sheets, sheet_names(address.file, address.largest_expansion));
    for (const std::string& sheet : sheets) {
      tables.push_back(address);
      tables.back().sheet = sheet;
    }
  }
  if (tables.empty()) tables.push_back(address);
  return tables;
}

OrError<TableReader> TableReader::open(const TableAddress& address) {
  if (!address.database.empty()) {
    PEAR_ASSIGN(const database::DatabaseAddress database, database::parse_database_address(address.database));
    PEAR_ASSIGN(QueryReader reader, QueryReader::open(database, address.query, address.table));
    return TableReader(std::move(reader), std::nullopt);
  }
  PEAR_TRY(database::check_no_password(address.file));
  const std::string front = address.file == "-" ? "" : front_of_file(address.file);
  if (kind_of(front) == FileKind::archive) {
    PEAR_ASSIGN(SheetReader reader, SheetReader::open(address));
    return TableReader(std::move(reader), std::nullopt);
  }
  PEAR_TRY(check_is_text(front, address.file));
  if (!address.sheet.empty())
    return data_error(
        fmt::format("{} is not a spreadsheet; remove sheet = {}.", address.file, in_quotes(address.sheet)));
  PEAR_ASSIGN(TextSource text, open_text(address.file, address.encoding, address.largest_expansion));
  return over(std::move(text.bytes), text.encoding, address);
}

OrError<TableReader> TableReader::over(std::unique_ptr<ByteSource> text, Encoding encoding,
                                       const TableAddress& address) {
  PEAR_ASSIGN(CsvReader reader, CsvReader::open(std::move(text), address.delimiter, address.header_line));
  return TableReader(std::move(reader), encoding);
}

const std::vector<std::string>& TableReader::header() const {
  return std::visit([](const auto& reader) -> const std::vector<std::string>& { return reader.header(); },
                    reader_);
}
const std::string& TableReader::name() const {
  return std::visit(
      Either{[](const CsvReader& reader) -> const std::string& { return reader.source().name(); },
             [](const auto& reader) -> const std::string& { return reader.name(); }},
      reader_);
}
char TableReader::delimiter() const {
  return std::visit(Either{[](const CsvReader& reader) { return reader.delimiter(); },
                           [](const auto& /*reader*/) { return ','; }},
                    reader_);
}
std::uint64_t TableReader::bytes_taken() const {
  return std::visit(Either{[](const CsvReader& reader) { return reader.source().bytes_taken(); },
                           [](const auto& reader) { return reader.bytes_taken(); }},
                    reader_);
}
std::uint64_t TableReader::bytes_in_all() const {
  return std::visit(Either{[](const CsvReader& reader) { return reader.source().bytes_in_all().value_or(0); },
                           [](const auto& /*reader*/) { return std::uint64_t{0}; }},
                    reader_);
}
std::string TableReader::content_hash() const {
  return std::visit(Either{[](const CsvReader& reader) { return reader.source().content_hash(); },
                           [](const auto& reader) { return reader.content_hash(); }},
                    reader_);
}

}  // namespace pear::sources
