#include "output/csv_writer.hpp"

#include <algorithm>

#include <csv.h>
#include <tbb/parallel_for.h>

namespace pear {

void append_csv_field(std::string& line, std::string_view field) {
  if (field.find_first_of(",\"\r\n") == std::string_view::npos) {
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

namespace {

std::string rows_text(const Table& table, std::size_t begin, std::size_t end) {
  std::string text;
  for (std::size_t row = begin; row < end; ++row) {
    for (const TableColumn& column : table.columns) {
      if (&column != &table.columns.front()) text += ',';
      if (column.unit == Unit::text) {
        append_csv_field(text, column.text(row));
      } else {
        append_cell(text, column, row);
      }
    }
    text += '\n';
  }
  return text;
}

}  // namespace

OrError<void> write_csv(const Table& table, AtomicFile& file) {
  std::vector<std::string_view> names;
  for (const TableColumn& column : table.columns) names.push_back(column.name);
  PEAR_TRY(file.write(csv_line(names)));
  // Rows become text on all threads, a batch of blocks at a time, and are written in order.
  constexpr std::size_t kBlock = 16'384;
  constexpr std::size_t kBlocksAtOnce = 16;
  for (std::size_t begin = 0; begin < table.rows(); begin += kBlock * kBlocksAtOnce) {
    std::vector<std::string> blocks(std::min(kBlocksAtOnce, (table.rows() - begin + kBlock - 1) / kBlock));
    tbb::parallel_for(std::size_t{0}, blocks.size(), [&](std::size_t block) {
      const std::size_t first = begin + block * kBlock;
      blocks[block] = rows_text(table, first, std::min(table.rows(), first + kBlock));
    });
    for (const std::string& block : blocks) PEAR_TRY(file.write(block));
  }
  return {};
}

}  // namespace pear
