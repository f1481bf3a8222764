#include "intake/read/raw_table.hpp"

#include <algorithm>
#include <stdexcept>

namespace pear::intake {

std::size_t RawTable::source_of(std::size_t row) const {
  return static_cast<std::size_t>(
      std::upper_bound(source_ends.begin(), source_ends.end(), static_cast<std::uint32_t>(row)) -
      source_ends.begin());
}

RawColumn* RawTable::find(std::string_view name) {
  const auto found = std::find_if(columns.begin(), columns.end(),
                                  [&](const RawColumn& column) { return column.name == name; });
  return found == columns.end() ? nullptr : &*found;
}

const RawColumn* RawTable::find(std::string_view name) const {
  return const_cast<RawTable*>(this)->find(name);
}

const daybook::TextValues& RawTable::texts(std::string_view name) const {
  const RawColumn* column = find(name);
  if (column == nullptr) throw std::logic_error("a raw table lacks the column " + std::string(name));
  return std::get<daybook::TextValues>(column->values);
}

expression::RowView RawTable::view() const {
  expression::RowView view;
  view.rows = rows();
  for (const RawColumn& column : columns) view.columns.push_back({column.name, &column.values, nullptr});
  return view;
}

void RawTable::keep(const std::vector<std::uint8_t>& flags) {
  const auto compact = [&](auto& values) {
    std::size_t to = 0;
    for (std::size_t row = 0; row < flags.size(); ++row) {
      if (flags[row] != 0) values[to++] = values[row];
    }
    values.resize(to);
  };
  for (RawColumn& column : columns)
    std::visit([&](auto& values) { compact(daybook::array_of(values)); }, column.values);
  std::size_t row = 0;
  std::uint32_t kept = 0;
  for (std::uint32_t& end : source_ends) {
    for (; row < end; ++row) kept += flags[row] != 0 ? 1U : 0U;
    end = kept;
  }
  compact(lines);
}

std::string RawTable::record(std::size_t row) const {
  std::vector<std::string> texts;
  for (const RawColumn& column : columns) texts.push_back(daybook::value_text(column.values, row));
  return sources::csv_record({texts.begin(), texts.end()}, ',');
}

}  // namespace pear::intake
