#include "app/side_table.hpp"

#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "files/inputs.hpp"
#include "sources/table_reader.hpp"

namespace pear::app {

OrError<analysis::SideTable> read_side_table(const std::string& file) {
  const sources::TableAddress address = sources::file_address(file);
  files::protect_input(address.file);
  PEAR_ASSIGN(sources::TableReader reader, sources::TableReader::open(address));
  if (reader.header().empty())
    return data_error(fmt::format("{} is empty: it has no header and no rows.", file));
  analysis::SideTable table{file, reader.header(), {}, {}};
  std::optional<Error> malformed;
  PEAR_TRY(reader.for_each_part([](sources::CsvRows rows) { return rows; },
                                [&](const sources::CsvRows& rows, std::uint64_t first_line) {
                                  if (!rows.malformed.empty() && !malformed)
                                    malformed = Error{ErrorKind::data,
                                                      fmt::format("{} line {}: {}.", file,
                                                                  first_line + rows.malformed.front().line,
                                                                  rows.malformed.front().reason)};
                                  for (std::size_t row = 0; row < rows.size(); ++row) {
                                    table.lines.push_back(first_line + rows.lines[row]);
                                    auto& fields = table.rows.emplace_back();
                                    for (std::size_t column = 0; column < rows.columns; ++column)
                                      fields.emplace_back(rows.field(row, column));
                                  }
                                }));
  if (malformed) return tl::unexpected(*malformed);
  return table;
}

OrError<std::map<std::string, analysis::SideTable>> read_side_tables(
    const std::vector<analysis::OptionInfo>& options, const analysis::OptionValues& values) {
  std::map<std::string, analysis::SideTable> tables;
  for (const auto& [name, value] : values)
    for (const analysis::OptionInfo& option : options)
      if (option.names_file && option.name == name) {
        PEAR_ASSIGN(tables[name], read_side_table(value));
      }
  return tables;
}

}  // namespace pear::app
