#include "output/tables/csv_writer.hpp"

#include <algorithm>
#include <utility>

#include <csv.h>
#include <tbb/parallel_pipeline.h>

namespace pear::output {

std::string_view csv_beginning(const CsvStyle& style) { return style.byte_order_mark ? "\xEF\xBB\xBF" : ""; }

void append_csv_field(std::string& line, std::string_view field) {
  bool plain = true;
  for (const char c : field) plain &= c != ',' && c != '"' && c != '\r' && c != '\n';
  if (plain) {
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

std::string rows_text(const result::Table& table, std::size_t begin, std::size_t end, Formulas formulas) {
  std::string text;
  for (std::size_t row = begin; row < end; ++row) {
    for (const result::TableColumn& column : table.columns) {
      if (&column != &table.columns.front()) text += ',';
      if (column.unit == result::Unit::text) {
        if (formulas == Formulas::keep)
          append_csv_field(text, column.text(row));
        else
          append_csv_field(text, csv_text(column.text(row), formulas));
      } else {
        result::append_cell(text, column, row);
      }
    }
    text += '\n';
  }
  return text;
}

}  // namespace

OrError<void> write_csv(const result::Table& table, files::AtomicFile& file, const CsvStyle& style) {
  std::vector<std::string_view> names;
  for (const result::TableColumn& column : table.columns) names.push_back(column.name);
  PEAR_TRY(file.write(std::string(csv_beginning(style)) + csv_line(names)));
  // Blocks of rows become text on all threads, and are written in order while others are still being
  // converted.
  constexpr std::size_t kBlock = 8'192;
  constexpr std::size_t kBlocksAtOnce = 16;
  std::size_t next = 0;
  OrError<void> outcome;
  tbb::parallel_pipeline(kBlocksAtOnce,
                         tbb::make_filter<void, std::size_t>(tbb::filter_mode::serial_in_order,
                                                             [&](tbb::flow_control& control) {
                                                               if (next >= table.rows() || !outcome)
                                                                 control.stop();
                                                               return std::exchange(next, next + kBlock);
                                                             }) &
                             tbb::make_filter<std::size_t, std::string>(
                                 tbb::filter_mode::parallel,
                                 [&](std::size_t begin) {
                                   return rows_text(table, begin, std::min(table.rows(), begin + kBlock),
                                                    style.formulas);
                                 }) &
                             tbb::make_filter<std::string, void>(tbb::filter_mode::serial_in_order,
                                                                 [&](const std::string& text) {
                                                                   if (outcome) outcome = file.write(text);
                                                                 }));
  return outcome;
}

}  // namespace pear::output
