#include "sources/table_reader.hpp"

namespace pear::sources {
namespace {
// Two kinds of reader, each with its own interface.
template <class OfFile, class OfQuery>
struct Either : OfFile, OfQuery {
  using OfFile::operator();
  using OfQuery::operator();
};
template <class OfFile, class OfQuery>
Either(OfFile, OfQuery) -> Either<OfFile, OfQuery>;
}  // namespace

OrError<TableReader> TableReader::open(const TableAddress& address) {
  if (!address.database.empty()) {
    PEAR_ASSIGN(const database::DatabaseAddress database, database::parse_database_address(address.database));
    PEAR_ASSIGN(QueryReader reader, QueryReader::open(database, address.query, address.table));
    return TableReader(std::move(reader), std::nullopt);
  }
  PEAR_TRY(database::check_no_password(address.file));
  PEAR_ASSIGN(TextSource text, open_text(address.file, address.encoding, address.largest_expansion));
  return over(std::move(text.bytes), text.encoding, address.delimiter);
}

OrError<TableReader> TableReader::over(std::unique_ptr<ByteSource> text, Encoding encoding,
                                       std::optional<char> delimiter) {
  PEAR_ASSIGN(CsvReader reader, CsvReader::open(std::move(text), delimiter));
  return TableReader(std::move(reader), encoding);
}

const std::vector<std::string>& TableReader::header() const {
  return std::visit([](const auto& reader) -> const std::vector<std::string>& { return reader.header(); },
                    reader_);
}
const std::string& TableReader::name() const {
  return std::visit(
      Either{[](const CsvReader& reader) -> const std::string& { return reader.source().name(); },
             [](const QueryReader& reader) -> const std::string& { return reader.name(); }},
      reader_);
}
char TableReader::delimiter() const {
  return std::visit(Either{[](const CsvReader& reader) { return reader.delimiter(); },
                           [](const QueryReader& /*reader*/) { return ','; }},
                    reader_);
}
std::uint64_t TableReader::bytes_taken() const {
  return std::visit(Either{[](const CsvReader& reader) { return reader.source().bytes_taken(); },
                           [](const QueryReader& reader) { return reader.bytes_taken(); }},
                    reader_);
}
std::uint64_t TableReader::bytes_in_all() const {
  return std::visit(Either{[](const CsvReader& reader) { return reader.source().bytes_in_all().value_or(0); },
                           [](const QueryReader& /*reader*/) { return std::uint64_t{0}; }},
                    reader_);
}
std::string TableReader::content_hash() const {
  return std::visit(Either{[](const CsvReader& reader) { return reader.source().content_hash(); },
                           [](const QueryReader& reader) { return reader.content_hash(); }},
                    reader_);
}

}  // namespace pear::sources
