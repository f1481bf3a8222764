#include "sources/query_reader.hpp"

#include <fmt/format.h>
#include <xxhash.h>

#include "database/connection.hpp"
#include "sources/ascii.hpp"

namespace pear::sources {
namespace {

constexpr std::size_t kOdbcText =
    4'000;  ///< characters; longer types differ from one ODBC driver to the next

/// ODBC drivers cut texts at the size that they report, and many report 255 for a computed column. They say
/// so, but not through the library.
bool may_be_cut(std::string_view text) {
  constexpr std::size_t kUsualSize = 255;
  return text.size() == kUsualSize || text.size() >= kOdbcText;
}

/// Every column of the query as text.
std::string as_texts(const std::vector<std::string>& header, const std::string& query,
                     database::DatabaseKind kind) {
  const std::string type =
      kind == database::DatabaseKind::odbc ? fmt::format("VARCHAR({})", kOdbcText) : "TEXT";
  std::string columns;
  for (const std::string& name : header)
    columns += fmt::format("{}CAST(pear_rows.{} AS {})", columns.empty() ? "" : ", ",
                           database::sql_name(name), type);
  return fmt::format("SELECT {} FROM ({}) AS pear_rows", columns, query);
}

}  // namespace

struct QueryReader::Cursor {
  std::unique_ptr<soci::session> session;
  soci::row row;
  std::unique_ptr<soci::statement> statement;
  bool has_row = false;
  XXH3_state_t* hash = XXH3_createState();
  Cursor() { XXH3_128bits_reset(hash); }
  ~Cursor() { XXH3_freeState(hash); }
  Cursor(const Cursor&) = delete;
  Cursor& operator=(const Cursor&) = delete;
};

void QueryReader::CursorDeleter::operator()(Cursor* cursor) const { delete cursor; }

OrError<QueryReader> QueryReader::open(const database::DatabaseAddress& address, const std::string& query,
                                       const std::string& table) {
  QueryReader reader;
  reader.address_ = address;
  reader.name_ =
      table.empty() ? database::shown(address) : fmt::format("{}, table {}", database::shown(address), table);
  reader.cursor_.reset(new Cursor());
  Cursor& cursor = *reader.cursor_;
  PEAR_ASSIGN(cursor.session, database::connect(address, false));
  try {
    for (const database::HeaderColumn& column : database::header_of(*cursor.session, query))
      reader.header_.push_back(column.name);
    cursor.statement = std::make_unique<soci::statement>(
        (cursor.session->prepare << as_texts(reader.header_, query, address.kind), soci::into(cursor.row)));
    cursor.has_row = cursor.statement->execute(true);
  } catch (const std::exception& fault) {
    return database::database_error("cannot read from", address, fault);
  }
  return reader;
}

OrError<std::optional<CsvRows>> QueryReader::next_rows() {
  constexpr std::size_t kRowsAtOnce = 8192;
  constexpr std::size_t kBytesAtOnce = std::size_t{16} << 20U;
  constexpr std::size_t kLargestBatch = std::size_t{1} << 31U;  // the ends of fields have 32 bits
  CsvRows rows;
  rows.columns = header_.size();
  Cursor& cursor = *cursor_;
  try {
    while (cursor.has_row && rows.size() < kRowsAtOnce && rows.bytes.size() < kBytesAtOnce) {
      for (std::size_t column = 0; column < rows.columns; ++column) {
        if (cursor.row.get_indicator(column) != soci::i_null) {
          const auto text = cursor.row.get<std::string>(column);
          if (rows.bytes.size() + text.size() > kLargestBatch) return too_long(column, "2 GiB");
          if (address_.kind == database::DatabaseKind::odbc && may_be_cut(text))
            return too_long(column, fmt::format("{} characters, where ODBC drivers cut", text.size()));
          rows.bytes += text;
        }
        rows.ends.push_back(static_cast<std::uint32_t>(rows.bytes.size()));
      }
      rows.lines.push_back(++rows_read_);
      cursor.has_row = cursor.statement->fetch();
    }
  } catch (const std::exception& fault) {
    return database::database_error("cannot read from", address_, fault);
  }
  if (rows.size() == 0) return std::nullopt;
  rows.is_ascii = is_ascii(rows.bytes);
  XXH3_128bits_update(cursor.hash, rows.bytes.data(), rows.bytes.size());
  XXH3_128bits_update(cursor.hash, rows.ends.data(), rows.ends.size() * sizeof(std::uint32_t));
  bytes_ += rows.bytes.size();
  return rows;
}

tl::unexpected<Error> QueryReader::too_long(std::size_t column, std::string_view limit) const {
  return data_error(
      fmt::format("{}, column {}: a text is as long as {}. Shorten it in the query, with SUBSTRING.", name_,
                  header_[column], limit));
}

std::string QueryReader::content_hash() const {
  const XXH128_hash_t hash = XXH3_128bits_digest(cursor_->hash);
  return fmt::format("{:016x}{:016x}", hash.high64, hash.low64);
}

}  // namespace pear::sources
