#include "output/tables/csv_writer.hpp"

#include <algorithm>
#include <array>
#include <cstdint>
#include <utility>

#include <csv.h>
#include <tbb/parallel_pipeline.h>

#include "result/cell_text.hpp"

namespace pear::output {

std::string_view csv_beginning(const CsvStyle& style) { return style.byte_order_mark ? "\xEF\xBB\xBF" : ""; }

namespace {

bool is_plain(std::string_view field) {
  static constexpr auto kIsSpecial = [] {
    std::array<std::uint8_t, 256> special{};
    for (const char c : {',', '"', '\r', '\n'}) special.at(static_cast<unsigned char>(c)) = 1;
    return special;
  }();
  unsigned special = 0;
  for (const char c : field) special |= kIsSpecial[static_cast<unsigned char>(c)];
  return special == 0;
}

}  // namespace

void append_csv_field(std::string& line, std::string_view field) {
  if (is_plain(field)) {
    line += field;
    return;
  }
  std::string quoted(field.size() * 2 + 2, '\0');
  quoted.resize(csv_write(quoted.data(), quoted.size(), field.data(), field.size()));
  line += quoted;
}

std::string csv_line(const std::vector<std::string_view>& fields) {
  std::string line;
  for (const std::string_view& field : fields) {
    if (&field != &fields.front()) line += ',';
    append_csv_field(line, field);
  }
  return line + '\n';
}

std::string csv_text(std::string_view text, Formulas formulas) {
  const bool is_formula =
      !text.empty() && std::string_view("=+-@\t\r").find(text.front()) != std::string_view::npos;
  return (formulas == Formulas::as_text && is_formula ? "'" : "") + std::string(text);
}

namespace {

/// Some rows as text. Values are computed column by column, for few enough rows to stay in the cache.
class RowsText {
 public:
  RowsText(const result::Table& table, Formulas formulas)
      : cells_(table.columns.begin(), table.columns.end()), formulas_(formulas) {}

  std::string of(std::size_t begin, std::size_t end) {
    constexpr std::size_t kRowsAtOnce = 256;
    for (std::size_t from = begin; from < end; from += kRowsAtOnce) {
      const std::size_t until = std::min(end, from + kRowsAtOnce);
      for (result::CellReader& column : cells_) column.read(from, until);
      for (std::size_t row = from; row < until; ++row) add_row(row);
    }
    text_.resize(size_);
    return std::move(text_);
  }

 private:
  void add_row(std::size_t row) {
    for (const result::CellReader& column : cells_) {
      if (column.is_text())
        add_text(column.text(row));
      else
        size_ =
            static_cast<std::size_t>(column.write(room(result::CellReader::kLongest), row) - text_.data());
      *room(1) = ',';
      ++size_;
    }
    text_[size_ - 1] = '\n';
  }

  void add_text(std::string_view field) {
    if (formulas_ == Formulas::keep && is_plain(field)) {
      add_plain(field);
      return;
    }
    escaped_.clear();
    append_csv_field(escaped_, csv_text(field, formulas_));
    add_plain(escaped_);
  }

  void add_plain(std::string_view text) {
    std::copy(text.begin(), text.end(), room(text.size()));
    size_ += text.size();
  }

  /// A place for this many characters after the text.
  char* room(std::size_t characters) {
    if (text_.size() < size_ + characters) text_.resize(2 * (size_ + characters));
    return text_.data() + size_;
  }

  std::vector<result::CellReader> cells_;
  Formulas formulas_;
  std::string text_;  ///< of which `size_` characters are written
  std::size_t size_ = 0;
  std::string escaped_;
};

}  // namespace

OrError<void> write_csv(const result::Table& table, files::AtomicFile& file, const CsvStyle& style,
                        const std::function<void(std::size_t rows)>& written) {
  std::vector<std::string_view> names;
  for (const result::TableColumn& column : table.columns) names.push_back(column.name);
  PEAR_TRY(file.write(std::string(csv_beginning(style)) + csv_line(names)));
  // Blocks of rows become text on all threads, and are written in order while others are still being
  // converted.
  constexpr std::size_t kBlock = 8'192;
  constexpr std::size_t kBlocksAtOnce = 16;
  std::size_t next = 0, rows = 0;
  OrError<void> outcome;
  const auto begin_next = [&](tbb::flow_control& control) {
    if (next >= table.rows() || !outcome) control.stop();
    return std::exchange(next, next + kBlock);
  };
  const auto text_of = [&](std::size_t begin) {
    return RowsText(table, style.formulas).of(begin, std::min(table.rows(), begin + kBlock));
  };
  const auto write = [&](const std::string& text) {
    if (outcome) outcome = file.write(text);
    rows = std::min(table.rows(), rows + kBlock);
    if (written) written(rows);
  };
  using tbb::filter_mode;
  tbb::parallel_pipeline(kBlocksAtOnce,
                         tbb::make_filter<void, std::size_t>(filter_mode::serial_in_order, begin_next) &
                             tbb::make_filter<std::size_t, std::string>(filter_mode::parallel, text_of) &
                             tbb::make_filter<std::string, void>(filter_mode::serial_in_order, write));
  return outcome;
}

}  // namespace pear::output
