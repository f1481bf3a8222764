#include "daybook/member_list.hpp"

#include <algorithm>
#include <array>
#include <limits>
#include <utility>

#include <absl/container/flat_hash_map.h>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "base/text_hash.hpp"
#include "daybook/daybook.hpp"

namespace pear::daybook {
namespace {

/// Writes texts into a column's values; nothing where a text is not a value of the column's type.
class ValueWriter {
 public:
  explicit ValueWriter(ColumnValues& values) : values_(values) {
    if (const auto* texts = std::get_if<TextValues>(&values_))
      for (std::uint32_t code = 0; code < texts->dictionary.size(); ++code)
        codes_.emplace(texts->dictionary[code], code);
  }

  void write(std::size_t line, std::string_view text) {
    if (auto* texts = std::get_if<TextValues>(&values_)) texts->codes[line] = code_of(*texts, text);
    if (auto* decimals = std::get_if<DecimalValues>(&values_))
      if (const auto value = Decimal::parse(text)) decimals->units[line] = value->units();
    if (auto* dates = std::get_if<DateValues>(&values_))
      if (const auto moment = parse_iso_moment(text)) dates->days[line] = moment->date.days;
  }

 private:
  std::uint32_t code_of(TextValues& texts, std::string_view text) {
    const auto [found, is_new] =
        codes_.try_emplace(std::string(text), static_cast<std::uint32_t>(texts.dictionary.size()));
    if (is_new) texts.dictionary.push_back(text);
    return found->second;
  }

  ColumnValues& values_;
  absl::flat_hash_map<std::string, std::uint32_t, TextHash, std::equal_to<>> codes_;
};

/// By member of the table: its row in the list, or kNoMember.
std::vector<std::uint32_t> rows_of(const MemberList& list, const TextArray& members) {
  absl::flat_hash_map<std::string_view, std::uint32_t> row_of;
  for (std::uint32_t row = 0; row < list.ids.size(); ++row) row_of.emplace(list.ids[row], row);
  std::vector<std::uint32_t> rows(members.size(), kNoMember);
  for (std::size_t member = 0; member < members.size(); ++member)
    if (const auto found = row_of.find(members[member]); found != row_of.end()) rows[member] = found->second;
  return rows;
}

constexpr std::size_t kGone = std::numeric_limits<std::size_t>::max();  ///< it has a line now

const TextArray* column_of(const MemberList& list, const std::string& name) {
  const auto found = std::find(list.columns.begin(), list.columns.end(), name);
  return found == list.columns.end() ? nullptr
                                     : &list.values[static_cast<std::size_t>(found - list.columns.begin())];
}

}  // namespace

MemberList list_of(const std::vector<MemberList>& lists, Level level) {
  const auto found =
      std::find_if(lists.begin(), lists.end(), [&](const MemberList& list) { return list.level == level; });
  return found == lists.end() ? MemberList{level, {}, {}, {}} : *found;
}

std::uint64_t fill_from_list(const MemberList& list, Replaced replaced, LineTable& table) {
  const bool is_customers = list.level == Level::customer;
  const std::vector<std::uint32_t>& members = is_customers ? table.customer : table.product;
  const std::vector<std::uint32_t> rows =
      rows_of(list, is_customers ? table.customer_ids : table.product_ids);
  std::uint64_t changed = 0;
  for (std::size_t column = 0; column < list.columns.size(); ++column) {
    const auto known =
        std::find_if(table.columns.begin(), table.columns.end(), [&](const CandidateColumn& candidate) {
          return candidate.column.name == list.columns[column] &&
                 candidate.levels == std::vector<Level>{list.level};
        });
    if (known == table.columns.end()) continue;
    ColumnValues& values = known->column.values;
    ValueWriter writer(values);
    std::vector<std::uint8_t> is_counted(rows.size());
    for (std::size_t line = 0; line < members.size(); ++line) {
      const std::uint32_t row = rows[members[line]];
      const std::string_view text = row == kNoMember ? "" : list.values[column][row];
      if (text.empty()) continue;
      const std::string before = value_text(values, line);
      if (before == text || (replaced == Replaced::empty && !before.empty())) continue;
      writer.write(line, text);
      if (!before.empty() && std::exchange(is_counted[members[line]], 1) == 0) ++changed;
    }
  }
  return changed;
}

MemberList still_waiting(const MemberList& older, const MemberList& newer, const TextArray& present) {
  const std::array lists = {&newer, &older};
  MemberList all{newer.level, {}, newer.columns, {}};
  for (const std::string& name : older.columns)
    if (std::find(all.columns.begin(), all.columns.end(), name) == all.columns.end())
      all.columns.push_back(name);
  // Each member's rows in both lists, in order of the newer one.
  absl::flat_hash_map<std::string_view, std::size_t> place_of;
  for (std::size_t member = 0; member < present.size(); ++member) place_of.emplace(present[member], kGone);
  std::vector<std::array<std::uint32_t, 2>> rows;
  for (std::size_t list = 0; list < lists.size(); ++list) {
    for (std::uint32_t row = 0; row < lists[list]->ids.size(); ++row) {
      const auto [place, is_new] = place_of.emplace(lists[list]->ids[row], rows.size());
      if (is_new) {
        all.ids.push_back(lists[list]->ids[row]);
        rows.push_back({kNoMember, kNoMember});
      }
      if (place->second != kGone) rows[place->second][list] = row;
    }
  }
  for (const std::string& name : all.columns) {
    TextArray& values = all.values.emplace_back();
    const std::array columns = {column_of(newer, name), column_of(older, name)};
    for (const auto& row : rows) {
      std::string_view value;
      for (std::size_t list = 0; list < lists.size() && value.empty(); ++list)
        if (columns[list] != nullptr && row[list] != kNoMember) value = (*columns[list])[row[list]];
      values.push_back(value);
    }
  }
  return all;
}

}  // namespace pear::daybook
