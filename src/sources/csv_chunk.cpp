#include "sources/csv_chunk.hpp"

#include <algorithm>
#include <cstring>

#include <csv.h>
#include <fmt/format.h>

#include "base/text.hpp"
#include "sources/ascii.hpp"

namespace pear::sources {
namespace {

int no_byte_is_space(unsigned char /*byte*/) { return 0; }

std::string quoted_field(std::string_view field) {
  std::string result(field.size() * 2 + 2, '\0');
  result.resize(csv_write(result.data(), result.size(), field.data(), field.size()));
  return result;
}

}  // namespace

std::string csv_record(const std::vector<std::string_view>& fields, char delimiter) {
  std::string record;
  for (const std::string_view& field : fields) {
    if (&field != &fields.front()) record += delimiter;
    const bool plain = field.find_first_of("\"\r\n") == std::string_view::npos &&
                       field.find(delimiter) == std::string_view::npos;
    record += plain ? std::string(field) : quoted_field(field);
  }
  return record;
}

std::string_view first_filled(const std::vector<std::string_view>& fields) {
  for (const std::string_view field : fields) {
    if (!field.empty()) return field;
  }
  return {};
}

std::string_view CsvRows::first_value(std::size_t row) const {
  std::size_t column = 0;
  while (column + 1 < columns && field(row, column).empty()) ++column;
  return columns == 0 ? std::string_view() : field(row, column);
}

std::string CsvRows::record(std::size_t row, char delimiter) const {
  std::vector<std::string_view> fields;
  for (std::size_t column = 0; column < columns; ++column) fields.push_back(field(row, column));
  return csv_record(fields, delimiter);
}

CsvParser::CsvParser(CsvFormat format, std::size_t columns)
    : format_(format), parser_(std::make_unique<csv_parser>()) {
  csv_init(parser_.get(), CSV_REPALL_NL);
  csv_set_delim(parser_.get(), static_cast<unsigned char>(format.delimiter));
  csv_set_blk_size(parser_.get(), std::size_t{1} << 16U);  // a long field would be copied for every 128 bytes
  csv_set_space_func(parser_.get(), no_byte_is_space);  // spaces are part of a field (RFC 4180, section 2.4)
  rows_.columns = columns;
}

CsvParser::~CsvParser() { csv_free(parser_.get()); }

void CsvParser::parse(std::string_view part) {
  csv_parse(
      parser_.get(), part.data(), part.size(),
      [](void* text, std::size_t size, void* self) {
        static_cast<CsvParser*>(self)->on_field({static_cast<const char*>(text), size});
      },
      [](int terminator, void* self) { static_cast<CsvParser*>(self)->on_row_end(terminator); }, this);
}

void CsvParser::feed(std::string_view part) {
  if (part.empty()) return;
  may_hold_line_feeds_ |= part.find('"') != std::string_view::npos;
  rows_.is_ascii &= is_ascii(part);
  make_room(part.size());
  parse(part.substr(0, part.size() - 1));
  const std::uint64_t row_ends = row_ends_;
  parse(part.substr(part.size() - 1));
  at_row_end_ = row_ends_ != row_ends;
  if (at_row_end_) may_hold_line_feeds_ = false;
}

constexpr std::size_t kCopied = 16;  // bytes, at least, that a field is copied by

/// Fields are mostly no longer than the text that contains them; one that began in an earlier part may be.
void CsvParser::make_room(std::size_t text_bytes) {
  constexpr std::size_t kUsualFieldBytes = 6;
  rows_.bytes.resize(used_ + text_bytes + kCopied);
  rows_.ends.reserve(rows_.ends.size() + text_bytes / kUsualFieldBytes);
}

void CsvParser::finish() {
  if (at_row_end_) return;
  csv_set_opts(parser_.get(),
               CSV_REPALL_NL | CSV_STRICT | CSV_STRICT_FINI);  // an open quote is an error only here
  const int status = csv_fini(
      parser_.get(),
      [](void* text, std::size_t size, void* self) {
        static_cast<CsvParser*>(self)->on_field({static_cast<const char*>(text), size});
      },
      [](int terminator, void* self) { static_cast<CsvParser*>(self)->on_row_end(terminator); }, this);
  if (status != 0) {
    on_field({reinterpret_cast<const char*>(parser_->entry_buf), parser_->entry_pos});
    reject_row("has a quoted field that never ends", "has a quoted field that never ends");
  }
  at_row_end_ = true;
}

std::size_t CsvParser::unfinished_bytes() const { return at_row_end_ ? 0 : parser_->entry_pos; }

void CsvParser::on_field(std::string_view text) {
  if (may_hold_line_feeds_) lines_ += static_cast<std::uint64_t>(std::count(text.begin(), text.end(), '\n'));
  if (rows_.bytes.size() < used_ + text.size() + kCopied)
    rows_.bytes.resize(2 * (used_ + text.size() + kCopied));
  // A copy of fixed size needs no call. libcsv's buffer is larger, and what is copied beyond the
  // field is overwritten by the next.
  const bool is_short = text.size() <= kCopied && csv_get_buffer_size(parser_.get()) >= kCopied;
  if (is_short) {
    std::memcpy(rows_.bytes.data() + used_, text.data(), kCopied);
  } else {
    std::memcpy(rows_.bytes.data() + used_, text.data(), text.size());
  }
  used_ += text.size();
  rows_.ends.push_back(static_cast<std::uint32_t>(used_));
}

void CsvParser::on_row_end(int terminator) {
  ++row_ends_;
  const std::size_t fields = rows_.ends.size() - row_begin_;
  const bool second_half_of_crlf = terminator == '\n' && after_carriage_return_ && fields == 0;
  if (terminator >= 0 && !second_half_of_crlf) ++lines_;
  after_carriage_return_ = terminator == '\r';
  const std::uint32_t begin = row_begin_ == 0 ? 0 : rows_.ends[row_begin_ - 1];
  if (fields > 0 && used_ == begin) {
    rows_.ends.resize(row_begin_);  // without any value
  } else if (fields == rows_.columns) {
    rows_.lines.push_back(row_line_);
    row_begin_ = rows_.ends.size();
  } else if (fields > 0) {
    reject_row(fmt::format("has {} where the header has {}", counted(fields, "field"), rows_.columns),
               fields < rows_.columns ? "has too few fields" : "has too many fields");
  }
  row_line_ = lines_;
}

void CsvParser::reject_row(std::string reason, std::string kind) {
  std::vector<std::string_view> fields;
  const std::uint32_t begin = row_begin_ == 0 ? 0 : rows_.ends[row_begin_ - 1];
  for (std::size_t i = row_begin_, from = begin; i < rows_.ends.size(); from = rows_.ends[i++])
    fields.push_back(std::string_view(rows_.bytes).substr(from, rows_.ends[i] - from));
  rows_.malformed.push_back({row_line_, std::move(reason), std::move(kind),
                             csv_record(fields, format_.delimiter), std::string(first_filled(fields))});
  rows_.ends.resize(row_begin_);
  used_ = begin;
}

CsvRows CsvParser::take() {
  CsvRows complete;
  complete.columns = rows_.columns;
  const std::size_t complete_bytes = row_begin_ == 0 ? 0 : rows_.ends[row_begin_ - 1];
  std::vector<std::uint32_t> rest(rows_.ends.begin() + static_cast<std::ptrdiff_t>(row_begin_),
                                  rows_.ends.end());
  for (std::uint32_t& end : rest) end -= static_cast<std::uint32_t>(complete_bytes);
  std::string rest_bytes = rows_.bytes.substr(complete_bytes, used_ - complete_bytes);
  used_ = rest_bytes.size();
  rows_.bytes.resize(complete_bytes);
  rows_.ends.resize(row_begin_);
  std::swap(complete, rows_);
  rows_.is_ascii = complete.is_ascii;  // the rest of the text has been read already
  rows_.ends = std::move(rest);
  rows_.bytes = std::move(rest_bytes);
  row_begin_ = 0;
  return complete;
}

std::vector<PlainRow> split_rows(std::string_view text, CsvFormat format, std::size_t most) {
  struct Splitter {
    std::vector<PlainRow> rows;
    PlainRow row{1, {}};
    std::uint64_t line = 1;
    char last = '\n';
    static void on_field(void* text, std::size_t size, void* self) {
      const std::string_view field(static_cast<const char*>(text), size);
      auto& state = *static_cast<Splitter*>(self);
      state.row.cells.emplace_back(field);
      state.line += static_cast<std::uint64_t>(std::count(field.begin(), field.end(), '\n'));
    }
    static void on_row(int end, void* self) {
      auto& state = *static_cast<Splitter*>(self);
      auto& cells = state.row.cells;
      const bool second_half = end == '\n' && state.last == '\r' && cells.empty();
      if (!second_half) ++state.line;
      while (!cells.empty() && cells.back().empty()) cells.pop_back();
      if (!cells.empty()) state.rows.push_back(std::move(state.row));
      state.row = {state.line, {}};
      state.last = static_cast<char>(end);
    }
  } splitter;
  csv_parser raw{};
  csv_init(&raw, CSV_REPALL_NL);
  csv_set_delim(&raw, static_cast<unsigned char>(format.delimiter));
  csv_set_space_func(&raw, no_byte_is_space);
  csv_parse(&raw, text.data(), text.size(), Splitter::on_field, Splitter::on_row, &splitter);
  csv_fini(&raw, Splitter::on_field, Splitter::on_row, &splitter);
  csv_free(&raw);
  splitter.rows.resize(std::min(splitter.rows.size(), most));
  return std::move(splitter.rows);
}

std::vector<std::size_t> count_fields(std::string_view text, CsvFormat format, std::size_t most) {
  std::vector<std::size_t> counts;
  struct Counter {
    std::size_t fields = 0;
    std::vector<std::size_t>* counts;
  } counter{0, &counts};
  csv_parser raw{};
  csv_init(&raw, 0);
  csv_set_delim(&raw, static_cast<unsigned char>(format.delimiter));
  const auto on_field = [](void* /*text*/, std::size_t /*size*/, void* self) {
    ++static_cast<Counter*>(self)->fields;
  };
  const auto on_row = [](int /*terminator*/, void* self) {
    auto* state = static_cast<Counter*>(self);
    state->counts->push_back(std::exchange(state->fields, 0));
  };
  csv_parse(&raw, text.data(), text.size(), on_field, on_row, &counter);
  if (counts.empty()) csv_fini(&raw, on_field, on_row, &counter);
  csv_free(&raw);
  counts.resize(std::min(counts.size(), most));
  return counts;
}

}  // namespace pear::sources
