#include "analysis/find_member.hpp"

#include <algorithm>
#include <array>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/member_column.hpp"
#include "base/text.hpp"
#include "expression/aggregate/measure.hpp"
#include "expression/evaluate/functions.hpp"

namespace pear::analysis {
namespace {

const TextArray& ids_of(const daybook::Daybook& daybook, daybook::Level level) {
  return level == daybook::Level::customer ? daybook.customer_ids() : daybook.product_ids();
}

std::string name_column(daybook::Level level) { return fmt::format("{}_name", daybook::to_text(level)); }

const daybook::Column* names_of(const daybook::Daybook& daybook, daybook::Level level) {
  const daybook::Column* names = daybook.find(name_column(level));
  return names != nullptr && names->level == level ? names : nullptr;
}

std::string name_of(const daybook::Column* names, std::uint32_t member) {
  return names == nullptr ? "" : daybook::value_text(names->values, member);
}

/// Columns of the level that come from the data, except the id.
std::vector<const daybook::Column*> attributes_of(const daybook::Daybook& daybook, daybook::Level level) {
  std::vector<const daybook::Column*> columns;
  for (const daybook::Column& column : daybook.parts().columns)
    if (column.level == level) columns.push_back(&column);
  return columns;
}

}  // namespace

OptionDeclarations<MemberOptions> member_options(daybook::Level level) {
  return {{{"find", "TEXT", "",
            fmt::format("a {} by id, by name, or by a part of one; also as the first word",
                        daybook::to_text(level))},
           [](MemberOptions& options, std::string_view text) -> OrError<void> {
             options.find = text;
             return {};
           }}};
}

OrError<MemberOptions> read_member(daybook::Level level, const OptionValues& values) {
  PEAR_ASSIGN(MemberOptions options, read_options(member_options(level), values));
  if (options.find.empty())
    return usage_error(fmt::format("{0} takes an id or a part of a name: pear-thread {0} {1}",
                                   daybook::to_text(level),
                                   level == daybook::Level::customer ? "C101" : "P43"));
  return options;
}

OrError<std::vector<std::uint32_t>> find_members(const daybook::Daybook& daybook, daybook::Level level,
                                                 const std::string& text) {
  const TextArray& ids = ids_of(daybook, level);
  const daybook::Column* names = names_of(daybook, level);
  constexpr std::size_t kMatches = 5;  // from the closest kind of match to the widest
  std::array<std::vector<std::uint32_t>, kMatches> found;
  const std::string lower = expression::to_lower(text);
  for (std::uint32_t member = 0; member < ids.size(); ++member) {
    const std::string id(ids[member]), name = name_of(names, member);
    const std::string lower_id = expression::to_lower(id), lower_name = expression::to_lower(name);
    const bool contains =
        lower_id.find(lower) != std::string::npos || lower_name.find(lower) != std::string::npos;
    if (!contains) continue;
    const std::size_t match = id == text            ? 0U
                              : lower_id == lower   ? 1U
                              : name == text        ? 2U
                              : lower_name == lower ? 3U
                                                    : 4U;
    found[match].push_back(member);
  }
  for (std::vector<std::uint32_t>& members : found)
    if (!members.empty()) return std::move(members);
  std::vector<std::string> known;
  for (std::uint32_t member = 0; member < ids.size(); ++member) {
    known.emplace_back(ids[member]);
    if (names != nullptr) known.push_back(name_of(names, member));
  }
  return usage_error(fmt::format("there is no {} with {} in its id{} among the selected {}.{}",
                                 daybook::to_text(level), in_quotes(text), names == nullptr ? "" : " or name",
                                 with_thousands(static_cast<std::int64_t>(ids.size())),
                                 did_you_mean(text, known)));
}

OrError<std::uint32_t> find_one(const daybook::Daybook& daybook, daybook::Level level,
                                const std::string& text) {
  PEAR_ASSIGN(const std::vector<std::uint32_t> found, find_members(daybook, level, text));
  if (found.size() == 1) return found.front();
  return usage_error(fmt::format("{} {}s match {}. Use the id of one: {}.", found.size(),
                                 daybook::to_text(level), in_quotes(text), titles_of(daybook, level, found)));
}

std::string titles_of(const daybook::Daybook& daybook, daybook::Level level,
                      const std::vector<std::uint32_t>& members) {
  constexpr std::size_t kShown = 5;
  std::vector<std::string> titles;
  for (std::size_t i = 0; i < std::min(kShown, members.size()); ++i)
    titles.push_back(member_title(daybook, level, members[i]));
  if (members.size() > kShown) titles.push_back(fmt::format("and {} more", members.size() - kShown));
  return join(titles, ", ");
}

std::string member_title(const daybook::Daybook& daybook, daybook::Level level, std::uint32_t member) {
  const std::string id(ids_of(daybook, level)[member]), name = name_of(names_of(daybook, level), member);
  return name.empty() ? id : id + " " + name;
}

AboutTable::AboutTable(const daybook::Daybook& daybook, daybook::Level level, std::uint32_t member) {
  add(fmt::format("{}_id", daybook::to_text(level)), ids_of(daybook, level)[member]);
  for (const daybook::Column* column : attributes_of(daybook, level)) {
    const auto* decimals = std::get_if<daybook::DecimalValues>(&column->values);
    const bool money = decimals != nullptr && decimals->units[member] != daybook::kEmptyUnits &&
                       expression::measure_of_column(column->name) == expression::Measure::money;
    add(column->name, money ? with_thousands(Decimal::from_units(decimals->units[member]))
                            : daybook::value_text(column->values, member));
  }
}

void AboutTable::add(std::string_view attribute, std::string_view value) {
  attributes_.push_back(attribute);
  values_.push_back(value);
}

result::Table AboutTable::take() && {
  result::Table table{"about", "About", "One row for each attribute.", {}};
  table.columns = {result::text_column("attribute", "What it is.", std::move(attributes_)),
                   result::text_column("value", "Its value.", std::move(values_))};
  return table;
}

std::vector<result::TableColumn> attribute_columns(const daybook::Daybook& daybook, daybook::Level level,
                                                   const std::vector<std::uint32_t>& members) {
  std::vector<result::TableColumn> columns;
  const std::string word(daybook::to_text(level));
  columns.push_back(id_column(word + "_id", fmt::format("The {}.", word), ids_of(daybook, level), members));
  for (const daybook::Column* column : attributes_of(daybook, level))
    columns.push_back(member_column(column->name, fmt::format("{} of the {}.", column->name, word),
                                    column->values, members));
  return columns;
}

PreparedQuestion prepared_for_member(daybook::Level level, const MemberOptions& options,
                                     OrError<result::Result> (*ask)(const QuestionInput& input,
                                                                    const MemberOptions& options)) {
  PreparedQuestion prepared;
  prepared.columns = {std::string(daybook::role::kCustomerId), std::string(daybook::role::kOrderId),
                      std::string(daybook::role::kProductId),  std::string(daybook::role::kOrderDate),
                      std::string(daybook::role::kIsReturn),   std::string(daybook::role::kAmount)};
  prepared.where_there = {std::string(daybook::role::kQuantity), std::string(daybook::role::kUnitPrice),
                          "product_name", "customer_name"};
  prepared.level = level;
  prepared.ask = [options, ask](const QuestionInput& input) { return ask(input, options); };
  return prepared;
}

}  // namespace pear::analysis
