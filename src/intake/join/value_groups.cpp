#include "intake/join/value_groups.hpp"

#include <algorithm>
#include <unordered_map>

#include <fmt/format.h>

#include "base/dictionary.hpp"
#include "base/natural_order.hpp"
#include "base/text.hpp"
#include "intake/clean/recode.hpp"
#include "intake/plan/role.hpp"

namespace pear::intake {
namespace {

OrError<JoinedColumn> source_column(JoinedLines& lines, const std::string& from, const std::string& key) {
  std::vector<std::string> names;
  for (const JoinedColumn& column : lines.columns()) {
    if (column.name == from) return column;
    names.push_back(column.name);
  }
  return data_error(fmt::format("[{}] is made from {}, but there is no such column.{}", key, in_quotes(from),
                                did_you_mean(from, names)));
}

OrError<void> check_free(JoinedLines& lines, const std::string& name, const std::string& key) {
  const auto reserved = reserved_names();
  const auto roles = role_names();
  const auto columns = lines.columns();
  const bool taken = std::find(reserved.begin(), reserved.end(), name) != reserved.end() ||
                     std::find(roles.begin(), roles.end(), name) != roles.end() ||
                     std::any_of(columns.begin(), columns.end(),
                                 [&](const JoinedColumn& each) { return each.name == name; });
  if (!taken) return {};
  return data_error(
      fmt::format("[{}]: there is already a column {}; choose another name.", key, in_quotes(name)));
}

OrError<void> add_group(const Group& group, JoinedLines& lines, std::vector<UngroupedValue>& ungrouped) {
  const std::string key = "groups." + group.name;
  PEAR_TRY(check_free(lines, group.name, key));
  PEAR_ASSIGN(const JoinedColumn from, source_column(lines, group.from, key));
  const auto* texts = std::get_if<daybook::TextValues>(&from.column->values);
  if (texts == nullptr)
    return data_error(fmt::format("[{}] is made from {}, which is not text; use [bands] to group numbers.",
                                  key, in_quotes(group.from)));
  std::unordered_map<std::string, std::string> group_of;
  for (const auto& [name, values] : group.values) {
    for (const std::string& value : values) group_of[value] = name;
  }
  const auto rows = rows_by_code(*texts);
  daybook::TextValues made = *texts;
  std::size_t code = 0;
  rewrite_texts(made, [&](std::string_view text) {
    const std::uint64_t count = rows[code++];
    if (const auto found = group_of.find(std::string(text)); found != group_of.end()) return found->second;
    if (count > 0) ungrouped.push_back({group.name, std::string(text), count, from.table});
    return group.other.value_or(std::string(text));
  });
  lines.add_column(from, group.name, std::move(made));
  return {};
}

std::string key_of(const Band& band) { return "bands." + band.name; }

/// The numbers of the band's column; texts are read as numbers.
OrError<std::vector<std::int64_t>> numbers_of(const Band& band, JoinedLines& lines) {
  const std::string key = key_of(band);
  PEAR_ASSIGN(const JoinedColumn column, source_column(lines, band.from, key));
  if (const auto* decimal = std::get_if<daybook::DecimalValues>(&column.column->values))
    return decimal->units;
  const auto* texts = std::get_if<daybook::TextValues>(&column.column->values);
  const auto no_numbers = [&](std::string_view value) {
    return data_error(fmt::format("[{}] is made from {}, which does not contain only numbers: {}.", key,
                                  in_quotes(column.name), in_quotes(value)));
  };
  if (texts == nullptr) return no_numbers("a date or a time");
  std::vector<std::int64_t> by_code;
  for (std::size_t i = 0; i < texts->dictionary.size(); ++i) {
    const auto number = Decimal::parse(texts->dictionary[i]);
    if (!number) return no_numbers(texts->dictionary[i]);
    by_code.push_back(number->units());
  }
  std::vector<std::int64_t> units;
  for (const std::uint32_t code : texts->codes)
    units.push_back(code == daybook::kEmptyCode ? daybook::kEmptyUnits : by_code[code]);
  return units;
}

}  // namespace

std::vector<std::string> band_names(const std::vector<Decimal>& edges, bool whole) {
  std::vector<std::string> names = {fmt::format("below {}", edges.front().to_text())};
  for (std::size_t i = 0; i + 1 < edges.size(); ++i) {
    const Decimal last = Decimal::from_units(edges[i + 1].units() - Decimal::kScale);
    if (whole && last == edges[i]) {
      names.push_back(edges[i].to_text());
    } else if (whole) {
      names.push_back(fmt::format("{} to {}", edges[i].to_text(), last.to_text()));
    } else {
      names.push_back(fmt::format("{} to under {}", edges[i].to_text(), edges[i + 1].to_text()));
    }
  }
  names.push_back(fmt::format("{} or more", edges.back().to_text()));
  return names;
}

void sort_ungrouped(std::vector<UngroupedValue>& values) {
  for (auto begin = values.begin(); begin != values.end();) {
    const auto end = std::find_if(begin, values.end(),
                                  [&](const UngroupedValue& each) { return each.group != begin->group; });
    std::sort(begin, end, [](const UngroupedValue& a, const UngroupedValue& b) {
      return a.rows != b.rows ? a.rows > b.rows : natural_compare(a.value, b.value) < 0;
    });
    begin = end;
  }
}

OrError<std::vector<UngroupedValue>> add_groups(const IntakePlan& plan, JoinedLines& lines) {
  std::vector<UngroupedValue> ungrouped;
  for (const Group& group : plan.groups) PEAR_TRY(add_group(group, lines, ungrouped));
  sort_ungrouped(ungrouped);
  return ungrouped;
}

OrError<bool> is_whole(const Band& band, JoinedLines& lines) {
  PEAR_ASSIGN(const std::vector<std::int64_t> numbers, numbers_of(band, lines));
  const auto is_whole_number = [](std::int64_t units) {
    return units == daybook::kEmptyUnits || units % Decimal::kScale == 0;
  };
  return std::all_of(numbers.begin(), numbers.end(), is_whole_number) &&
         std::all_of(band.edges.begin(), band.edges.end(),
                     [&](Decimal edge) { return is_whole_number(edge.units()); });
}

OrError<void> add_band(const Band& band, bool whole, JoinedLines& lines) {
  const std::string key = key_of(band);
  PEAR_TRY(check_free(lines, band.name, key));
  PEAR_ASSIGN(const JoinedColumn from, source_column(lines, band.from, key));
  PEAR_ASSIGN(const std::vector<std::int64_t> numbers, numbers_of(band, lines));
  daybook::TextValues made;
  for (const std::string& name : band_names(band.edges, whole)) made.dictionary.push_back(name);
  for (const std::int64_t units : numbers) {
    const auto above = std::upper_bound(band.edges.begin(), band.edges.end(), Decimal::from_units(units));
    made.codes.push_back(units == daybook::kEmptyUnits
                             ? daybook::kEmptyCode
                             : static_cast<std::uint32_t>(above - band.edges.begin()));
  }
  lines.add_column(from, band.name, std::move(made));
  return {};
}

}  // namespace pear::intake
