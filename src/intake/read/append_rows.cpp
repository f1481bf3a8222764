#include "intake/read/append_rows.hpp"

#include <type_traits>
#include <utility>

#include "base/dictionary.hpp"

namespace pear::intake {
namespace {

/// An empty column of the same type as `like`.
daybook::ColumnValues empty_values(const daybook::ColumnValues& like, std::size_t rows) {
  daybook::ColumnValues values = like;
  std::visit(
      [&](auto& typed) {
        using Values = std::decay_t<decltype(typed)>;
        typed = Values{};
        if constexpr (std::is_same_v<Values, daybook::TextValues>) {
          typed.codes.assign(rows, daybook::kEmptyCode);
        } else if constexpr (std::is_same_v<Values, daybook::DecimalValues>) {
          typed.units.assign(rows, daybook::kEmptyUnits);
        } else if constexpr (std::is_same_v<Values, daybook::DateValues>) {
          typed.days.assign(rows, daybook::kEmptyDays);
        } else if constexpr (std::is_same_v<Values, daybook::TimeValues>) {
          typed.seconds.assign(rows, Moment::kNoTime);
        } else {
          typed.flags.assign(rows, 0);
        }
      },
      values);
  return values;
}

daybook::ColumnValues as_text(const daybook::ColumnValues& values, std::size_t rows) {
  if (std::holds_alternative<daybook::TextValues>(values)) return values;
  daybook::TextValues text;
  Dictionary dictionary;
  for (std::size_t row = 0; row < rows; ++row) {
    const std::string value = daybook::value_text(values, row);
    text.codes.push_back(value.empty() ? daybook::kEmptyCode : dictionary.code_of(HashedText(value)));
  }
  text.dictionary = dictionary.take();
  return text;
}

/// Both must be of the same type.
void append_values(daybook::ColumnValues& to, const daybook::ColumnValues& from) {
  if (auto* text = std::get_if<daybook::TextValues>(&to)) {
    const auto& added = std::get<daybook::TextValues>(from);
    Dictionary dictionary;
    for (std::size_t i = 0; i < text->dictionary.size(); ++i)
      static_cast<void>(dictionary.code_of(HashedText(text->dictionary[i])));
    std::vector<std::uint32_t> codes;
    for (std::size_t i = 0; i < added.dictionary.size(); ++i)
      codes.push_back(dictionary.code_of(HashedText(added.dictionary[i])));
    for (const std::uint32_t code : added.codes)
      text->codes.push_back(code == daybook::kEmptyCode ? code : codes[code]);
    text->dictionary = dictionary.take();
    return;
  }
  std::visit(
      [&](auto& typed) {
        auto& array = daybook::array_of(typed);
        const auto& added = daybook::array_of(std::get<std::decay_t<decltype(typed)>>(from));
        array.insert(array.end(), added.begin(), added.end());
      },
      to);
}

}  // namespace

void append_rows(RawTable& table, RawTable added) {
  const std::size_t before = table.rows();
  for (const RawColumn& column : added.columns) {
    if (table.find(column.name) == nullptr)
      table.columns.push_back({column.name, column.header, empty_values(column.values, before)});
  }
  for (RawColumn& column : table.columns) {
    const RawColumn* other = added.find(column.name);
    daybook::ColumnValues values =
        other == nullptr ? empty_values(column.values, added.rows()) : other->values;
    if (values.index() != column.values.index()) {
      column.values = as_text(column.values, before);
      values = as_text(values, added.rows());
    }
    append_values(column.values, values);
  }
  table.lines.insert(table.lines.end(), added.lines.begin(), added.lines.end());
  for (const std::uint32_t end : added.source_ends)
    table.source_ends.push_back(static_cast<std::uint32_t>(before) + end);
  for (SourceAccount& source : added.sources) table.sources.push_back(std::move(source));
}

}  // namespace pear::intake
