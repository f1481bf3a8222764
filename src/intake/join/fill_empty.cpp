#include "intake/join/fill_empty.hpp"

#include <string_view>
#include <type_traits>

#include <absl/container/flat_hash_map.h>

#include "base/date.hpp"
#include "daybook/daybook.hpp"

namespace pear::intake {
namespace {

template <class T>
std::uint64_t fill(std::vector<T>& ours, const std::vector<T>& theirs,
                   const std::vector<std::uint32_t>& row_of, T empty) {
  std::uint64_t filled = 0;
  for (std::size_t member = 0; member < ours.size(); ++member) {
    if (ours[member] != empty || row_of[member] == daybook::kNoMember || theirs[row_of[member]] == empty)
      continue;
    ours[member] = theirs[row_of[member]];
    ++filled;
  }
  return filled;
}

std::uint64_t fill_texts(daybook::TextValues& ours, const daybook::TextValues& theirs,
                         const std::vector<std::uint32_t>& row_of) {
  absl::flat_hash_map<std::string, std::uint32_t> known;
  for (std::uint32_t code = 0; code < ours.dictionary.size(); ++code)
    known.emplace(ours.dictionary[code], code);
  const auto own_code = [&](std::uint32_t code) {
    if (code == daybook::kEmptyCode) return code;
    const auto [found, is_new] = known.try_emplace(std::string(theirs.dictionary[code]),
                                                   static_cast<std::uint32_t>(ours.dictionary.size()));
    if (is_new) ours.dictionary.push_back(theirs.dictionary[code]);
    return found->second;
  };
  std::vector<std::uint32_t> codes;
  for (const std::uint32_t code : theirs.codes) codes.push_back(own_code(code));
  return fill(ours.codes, codes, row_of, daybook::kEmptyCode);
}

}  // namespace

std::uint64_t fill_empty(daybook::ColumnValues& ours, const daybook::ColumnValues& theirs,
                         const std::vector<std::uint32_t>& row_of) {
  if (auto* text = std::get_if<daybook::TextValues>(&ours)) {
    bool any = false;
    for (const std::uint32_t code : text->codes) any |= code == daybook::kEmptyCode;
    return any ? fill_texts(*text, std::get<daybook::TextValues>(theirs), row_of) : 0;
  }
  if (auto* date = std::get_if<daybook::DateValues>(&ours))
    return fill(date->days, std::get<daybook::DateValues>(theirs).days, row_of, daybook::kEmptyDays);
  if (auto* time = std::get_if<daybook::TimeValues>(&ours))
    return fill(time->seconds, std::get<daybook::TimeValues>(theirs).seconds, row_of, Moment::kNoTime);
  if (auto* number = std::get_if<daybook::DecimalValues>(&ours))
    return fill(number->units, std::get<daybook::DecimalValues>(theirs).units, row_of, daybook::kEmptyUnits);
  return 0;
}

}  // namespace pear::intake
