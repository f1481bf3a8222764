#include "sources/csv_reader.hpp"

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::sources {
namespace {

constexpr std::size_t kSampleBytes = std::size_t{1} << 16U;
constexpr std::size_t kLargestField = std::size_t{16} << 20U;
constexpr std::size_t kLargestRow = std::size_t{64} << 20U;

/// After the last line end at or after `from`; 0 if there is none. A carriage return counts only in a text
/// without line feeds, and not as the last byte: a line feed may follow.
std::size_t last_row_end(std::string_view text, std::size_t from) {
  const std::string_view recent = text.substr(from);
  if (const std::size_t feed = recent.rfind('\n'); feed != std::string_view::npos) return from + feed + 1;
  const std::size_t back = recent.substr(0, recent.empty() ? 0 : recent.size() - 1).rfind('\r');
  return back == std::string_view::npos ? 0 : from + back + 1;
}

/// Where a line begins, counted from 1; npos if there are not so many.
std::size_t begin_of_line(std::string_view text, std::uint64_t line) {
  const char end = text.find('\n') == std::string_view::npos ? '\r' : '\n';
  std::size_t at = 0;
  for (; line > 1; --line) {
    at = text.find(end, at);
    if (at == std::string_view::npos || ++at == text.size()) return std::string_view::npos;
  }
  return at;
}

/// Appends up to `count` bytes; false at the end of the source.
OrError<bool> append_bytes(ByteSource& source, std::string& text, std::size_t count) {
  const std::size_t before = text.size();
  text.resize(before + count);
  std::size_t got = 0;
  while (got < count) {
    PEAR_ASSIGN(const std::size_t some, source.read({text.data() + before + got, count - got}));
    if (some == 0) break;
    got += some;
  }
  text.resize(before + got);
  return got == count;
}

}  // namespace

OrError<CsvReader> CsvReader::open(std::unique_ptr<ByteSource> source, std::optional<char> delimiter,
                                   std::uint64_t header_line, std::size_t part_bytes) {
  CsvReader reader(std::move(source), part_bytes);
  PEAR_TRY(reader.read_header(delimiter, header_line));
  return reader;
}

OrError<void> CsvReader::read_header(std::optional<char> delimiter, std::uint64_t header_line) {
  PEAR_ASSIGN(bool more, append_bytes(*source_, rest_, kSampleBytes));
  rest_ = std::string(without_byte_order_mark(rest_));
  const bool is_empty = !more && rest_.find_first_not_of(" \t\r\n") == std::string::npos;
  if (header_line > 1 && !is_empty) {
    const std::size_t begin = begin_of_line(rest_, header_line);
    if (begin == std::string::npos)
      return data_error(fmt::format(
          "{} has no line {} within its first {} bytes, where header_line = {} says the header is.",
          source_->name(), header_line, with_thousands(static_cast<std::int64_t>(kSampleBytes)),
          header_line));
    rest_.erase(0, begin);
    first_line_ = header_line;
  }
  format_ = delimiter ? CsvFormat{*delimiter} : detect_format(rest_);
  const auto widths = count_fields(rest_, format_, 1);
  if (widths.empty()) {
    ended_ = true;
    return {};
  }

  CsvParser parser(format_, widths.front());
  std::size_t at = 0;
  CsvRows rows;
  while (rows.size() == 0) {
    const std::size_t line_feed = rest_.find_first_of("\r\n", at);
    const std::size_t end = line_feed == std::string::npos ? rest_.size() : line_feed + 1;
    if (end == at) break;
    parser.feed(std::string_view(rest_).substr(at, end - at));
    at = end;
    if (at == rest_.size() && !more) parser.finish();
    rows = parser.take();
  }
  if (rows.size() == 0)
    return data_error(fmt::format("the header of {} does not end within its first {} bytes.", source_->name(),
                                  with_thousands(static_cast<std::int64_t>(kSampleBytes))));
  if (at < rest_.size() && rest_[at - 1] == '\r' && rest_[at] == '\n') ++at;
  for (std::size_t column = 0; column < rows.columns; ++column) header_.emplace_back(rows.field(0, column));
  first_line_ += parser.lines();
  rest_.erase(0, at);
  return {};
}

OrError<std::optional<CsvReader::Part>> CsvReader::next_part() {
  if (ended_) return std::nullopt;
  std::string text = std::exchange(rest_, {});
  std::size_t searched = 0;  // without a row's end so far
  for (;;) {
    PEAR_ASSIGN(const bool more, append_bytes(*source_, text, part_bytes_));
    if (!more) {
      ended_ = true;
      return Part{std::move(text), true, nullptr};
    }
    if (const std::size_t end = last_row_end(text, searched); end > 0) {
      rest_ = text.substr(end);
      text.resize(end);
      return Part{std::move(text), false, nullptr};
    }
    searched = text.size();
    if (searched > kLargestRow)
      return data_error(
          fmt::format("{}: a row is longer than 64 MiB. Check that the file is a table with line ends.",
                      source_->name()));
  }
}

std::shared_ptr<CsvParser> CsvReader::parsed(const Part& part) const {
  auto parser = std::make_shared<CsvParser>(format_, header_.size());
  parser->feed(part.text);
  if (part.is_last) parser->finish();
  return parser;
}

OrError<void> CsvReader::check_field_size(const CsvParser& parser) const {
  if (parser.unfinished_bytes() <= kLargestField) return {};
  return data_error(fmt::format(
      "{}, line {}: a field in quotes is longer than 16 MiB. Probably its closing quote is missing.",
      source_->name(), first_line_ + parser.row_line()));
}

}  // namespace pear::sources
