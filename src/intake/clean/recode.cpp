#include "intake/clean/recode.hpp"

#include "base/dictionary.hpp"

namespace pear::intake {

std::vector<std::uint64_t> rows_by_code(const daybook::TextValues& values) {
  std::vector<std::uint64_t> rows(values.dictionary.size());
  for (const std::uint32_t code : values.codes) {
    if (code != daybook::kEmptyCode) ++rows[code];
  }
  return rows;
}

void rewrite_texts(daybook::TextValues& values,
                   const std::function<std::string(std::string_view)>& rewritten) {
  Dictionary dictionary;
  std::vector<std::uint32_t> codes;
  for (std::size_t i = 0; i < values.dictionary.size(); ++i)
    codes.push_back(dictionary.code_of(HashedText(rewritten(values.dictionary[i]))));
  for (std::uint32_t& code : values.codes) {
    if (code != daybook::kEmptyCode) code = codes[code];
  }
  values.dictionary = dictionary.take();
}

void rename_texts(RawTable& table, RawColumn& column,
                  const std::function<std::string(std::string_view)>& renamed, std::string_view step,
                  IntakeLog& log) {
  auto& values = std::get<daybook::TextValues>(column.values);
  std::vector<std::string> new_texts;
  bool any = false;
  for (std::size_t i = 0; i < values.dictionary.size(); ++i) {
    new_texts.push_back(renamed(values.dictionary[i]));
    any |= new_texts.back() != values.dictionary[i];
  }
  if (!any) return;
  for (std::size_t row = 0; row < table.rows(); ++row) {
    const std::uint32_t code = values.codes[row];
    if (code == daybook::kEmptyCode || new_texts[code] == values.dictionary[code]) continue;
    log.change(table.kind, {table.sources[table.source_of(row)].record.name, table.lines[row], column.name,
                            std::string(values.dictionary[code]), new_texts[code], step});
  }
  std::size_t next = 0;
  rewrite_texts(values, [&](std::string_view /*text*/) { return new_texts[next++]; });
}

void drop_unused_texts(daybook::TextValues& values) {
  std::vector<std::uint32_t> new_codes(values.dictionary.size(), daybook::kEmptyCode);
  std::vector<std::uint32_t> used;
  for (std::uint32_t& code : values.codes) {
    if (code == daybook::kEmptyCode) continue;
    if (new_codes[code] == daybook::kEmptyCode) {
      new_codes[code] = static_cast<std::uint32_t>(used.size());
      used.push_back(code);
    }
    code = new_codes[code];
  }
  values.dictionary = values.dictionary.picked(used);
}

}  // namespace pear::intake
