#include "output/csv_writer.hpp"

#include <csv.h>

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

OrError<void> write_csv(const Table& table, AtomicFile& file) {
  std::string line;
  for (const TableColumn& column : table.columns) {
    if (&column != &table.columns.front()) line += ',';
    append_csv_field(line, column.name);
  }
  PEAR_TRY(file.write(line + '\n'));
  for (std::size_t row = 0; row < table.rows(); ++row) {
    line.clear();
    for (const TableColumn& column : table.columns) {
      if (&column != &table.columns.front()) line += ',';
      if (column.unit == Unit::text)
        append_csv_field(line, column.text(row));
      else
        append_cell(line, column, row);
    }
    line += '\n';
    PEAR_TRY(file.write(line));
  }
  return {};
}

}  // namespace pear
