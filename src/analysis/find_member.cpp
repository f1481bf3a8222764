#include "analysis/find_member.hpp"

#include <algorithm>
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

std::vector<std::string> parallel_texts(const daybook::Daybook& daybook, daybook::Level level,
                                        const daybook::Column* names) {
  std::vector<std::string> texts;
  texts.reserve(daybook.members(level));
  for (std::uint32_t member = 0; member < daybook.members(level); ++member)
    texts.emplace_back(names == nullptr ? std::string(ids_of(daybook, level)[member])
                                        : daybook::value_text(names->values, member));
  return texts;
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
  return {text_option<MemberOptions>(
              {"id", "ID", "", fmt::format("the {}; also as the first word", daybook::to_text(level))},
              &MemberOptions::id),
          text_option<MemberOptions>(
              {"name", "NAME", "",
               fmt::format("by {} instead of the id; shows all who share it", name_column(level))},
              &MemberOptions::name)};
}

OrError<MemberOptions> read_member(daybook::Level level, const OptionValues& values) {
  PEAR_ASSIGN(MemberOptions options, read_options(member_options(level), values));
  if (options.id.has_value() == options.name.has_value())
    return usage_error(fmt::format("{0} takes the id of one {0}, or --name: pear-thread {0} {1}",
                                   daybook::to_text(level),
                                   level == daybook::Level::customer ? "C101" : "P43"));
  return options;
}

OrError<std::vector<std::uint32_t>> find_members(const daybook::Daybook& daybook, daybook::Level level,
                                                 const MemberOptions& options) {
  const daybook::Column* names = options.name ? names_of(daybook, level) : nullptr;
  if (options.name && names == nullptr)
    return usage_error(fmt::format("the daybook has no {} of each {}. Use the id.", name_column(level),
                                   daybook::to_text(level)));
  const std::string& wanted = options.name ? *options.name : *options.id;
  const std::vector<std::string> texts = parallel_texts(daybook, level, names);
  std::vector<std::uint32_t> found;
  for (const bool exactly : {true, false}) {
    const std::string lower = expression::to_lower(wanted);
    for (std::uint32_t member = 0; member < texts.size(); ++member)
      if (exactly ? texts[member] == wanted : expression::to_lower(texts[member]) == lower)
        found.push_back(member);
    if (!found.empty()) return found;
  }
  return usage_error(fmt::format("there is no {}{} {} among the selected {}.{}", daybook::to_text(level),
                                 options.name ? " named" : "", in_quotes(wanted),
                                 with_thousands(static_cast<std::int64_t>(texts.size())),
                                 did_you_mean(wanted, texts)));
}

OrError<std::uint32_t> find_one(const daybook::Daybook& daybook, daybook::Level level,
                                const std::string& text) {
  auto found = find_members(daybook, level, {text, {}});
  if (!found && names_of(daybook, level) != nullptr) {
    auto named = find_members(daybook, level, {{}, text});
    if (named) found = std::move(named);
  }
  if (!found) return tl::unexpected(found.error());
  if (found->size() == 1) return found->front();
  std::vector<std::string> ids;
  for (const std::uint32_t member : *found) ids.emplace_back(ids_of(daybook, level)[member]);
  return usage_error(fmt::format("{} {}s are named {}. Use the id of one: {}.", found->size(),
                                 daybook::to_text(level), in_quotes(text), join(ids, ", ")));
}

std::string member_title(const daybook::Daybook& daybook, daybook::Level level, std::uint32_t member) {
  const daybook::Column* names = names_of(daybook, level);
  const std::string id(ids_of(daybook, level)[member]);
  const std::string name = names == nullptr ? "" : daybook::value_text(names->values, member);
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
