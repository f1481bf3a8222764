#include "sources/spreadsheet/sheet_rows.hpp"

#include <fmt/format.h>

#include "base/text.hpp"
#include "sources/ascii.hpp"

namespace pear::sources {

void FirstRows::cell(std::size_t column, std::string_view text, bool /*is_typed*/) {
  if (text.empty() || rows_.size() == most_) return;
  cells_.resize(column);
  cells_.emplace_back(text);
}

void FirstRows::end_row(std::uint64_t number) {
  if (!cells_.empty()) rows_.push_back({number, std::move(cells_)});
  cells_.clear();
}

void SheetRows::cell(std::size_t column, std::string_view text, bool is_typed) {
  if (text.empty()) return;
  ends_.resize(column, static_cast<std::uint32_t>(bytes_.size()));
  typed_.resize(column, 0);
  bytes_ += text;
  ends_.push_back(static_cast<std::uint32_t>(bytes_.size()));
  typed_.push_back(is_typed ? 1 : 0);
}

void SheetRows::end_row(std::uint64_t number) {
  if (!ends_.empty() && number > header_row_) add_row(number);
  bytes_.clear();
  ends_.clear();
  typed_.clear();
}

void SheetRows::add_row(std::uint64_t number) {
  if (ends_.size() > rows_.columns) return add_malformed(number);
  const auto before = static_cast<std::uint32_t>(rows_.bytes.size());
  rows_.bytes += bytes_;
  for (const std::uint32_t end : ends_) rows_.ends.push_back(before + end);
  rows_.typed.insert(rows_.typed.end(), typed_.begin(), typed_.end());
  rows_.lines.push_back(number);
  rows_.ends.resize(rows_.size() * rows_.columns, static_cast<std::uint32_t>(rows_.bytes.size()));
  rows_.typed.resize(rows_.ends.size(), 0);
}

void SheetRows::add_malformed(std::uint64_t number) {
  std::vector<std::string_view> fields;
  for (std::size_t i = 0, begin = 0; i < ends_.size(); begin = ends_[i++])
    fields.push_back(std::string_view(bytes_).substr(begin, ends_[i] - begin));
  rows_.malformed.push_back(
      {number, fmt::format("has {} where the header has {}", counted(fields.size(), "cell"), rows_.columns),
       "has too many cells", csv_record(fields, ','), std::string(first_filled(fields))});
}

CsvRows SheetRows::take() {
  rows_.is_ascii = is_ascii(rows_.bytes);
  return std::move(rows_);
}

}  // namespace pear::sources
