#include "output/tables/json_writer.hpp"

#include <nlohmann/json.hpp>

#include "output/tables/trail_json.hpp"
#include "result/cell_text.hpp"

namespace pear::output {
namespace {

std::string json_text(std::string_view text) {
  return Json(text).dump(-1, ' ', false, Json::error_handler_t::replace);
}

OrError<void> write_rows(const result::Table& table, files::AtomicFile& file) {
  std::vector<std::string> names;
  for (const result::TableColumn& column : table.columns) names.push_back(json_text(column.name));
  std::string text;
  for (std::size_t row = 0; row < table.rows(); ++row) {
    text = row == 0 ? "\n    {" : ",\n    {";
    for (std::size_t i = 0; i < table.columns.size(); ++i) {
      const result::TableColumn& column = table.columns[i];
      if (i > 0) text += ", ";
      text += names[i] + ": ";
      const bool is_text = column.unit == result::Unit::text || column.unit == result::Unit::date;
      text += column.is_empty(row) ? "null"
              : is_text            ? json_text(result::cell_text(column, row))
                                   : result::cell_text(column, row);
    }
    PEAR_TRY(file.write(text + "}"));
  }
  return {};
}

}  // namespace

OrError<void> write_json(const result::Result& result, const Trail& trail, files::AtomicFile& file) {
  std::string head = trail_json(result, trail).dump(2, ' ', false, Json::error_handler_t::replace);
  head.resize(head.rfind("\n}"));
  PEAR_TRY(file.write(head + ",\n  \"tables\": ["));
  for (std::size_t i = 0; i < result.tables.size(); ++i) {
    const result::Table& table = result.tables[i];
    PEAR_TRY(file.write(i == 0 ? "\n  {" : ",\n  {"));
    const Json fields = fields_json(table);
    PEAR_TRY(file.write("\"part\": " + json_text(table.part) + ", \"title\": " + json_text(table.title) +
                        ", \"description\": " + json_text(table.description) + ",\n   \"fields\": " +
                        fields.dump(-1, ' ', false, Json::error_handler_t::replace) + ",\n   \"rows\": ["));
    PEAR_TRY(write_rows(table, file));
    PEAR_TRY(file.write("]}"));
  }
  return file.write("]\n}\n");
}

}  // namespace pear::output
