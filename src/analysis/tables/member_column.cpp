#include "analysis/tables/member_column.hpp"

#include <algorithm>
#include <memory>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "base/text.hpp"
#include "expression/aggregate/measure.hpp"

namespace pear::analysis {
namespace {

template <class T>
std::vector<std::int64_t> picked(const std::vector<T>& values, T empty,
                                 const std::vector<std::uint32_t>& members) {
  std::vector<std::int64_t> result;
  result.reserve(members.size());
  for (const std::uint32_t member : members) {
    const T value = member == daybook::kNoMember ? empty : values[member];
    result.push_back(value == empty ? result::kEmptyCell : std::int64_t{value});
  }
  return result;
}

/// The names of members, by code of their key; null if there are none.
const daybook::Column* names_of(const daybook::Daybook& daybook, const expression::GroupKey& key) {
  const bool of_products = key.source == daybook::role::kProductId,
             of_customers = key.source == daybook::role::kCustomerId;
  const daybook::Column* names = of_products    ? daybook.find("product_name")
                                 : of_customers ? daybook.find("customer_name")
                                                : nullptr;
  return names != nullptr && names->level == key.level ? names : nullptr;
}

}  // namespace

result::TableColumn member_column(std::string name, std::string description,
                                  const daybook::ColumnValues& values,
                                  const std::vector<std::uint32_t>& members) {
  if (const auto* decimal = std::get_if<daybook::DecimalValues>(&values)) {
    const bool money = expression::measure_of_column(name) == expression::Measure::money;
    return result::integer_column(std::move(name), money ? result::Unit::money : result::Unit::number,
                                  std::move(description),
                                  picked(decimal->units, daybook::kEmptyUnits, members));
  }
  if (const auto* date = std::get_if<daybook::DateValues>(&values))
    return result::integer_column(std::move(name), result::Unit::date, std::move(description),
                                  picked(date->days, daybook::kEmptyDays, members));
  if (const auto* text = std::get_if<daybook::TextValues>(&values)) {
    std::vector<std::uint32_t> codes;
    codes.reserve(members.size());
    for (const std::uint32_t member : members)
      codes.push_back(member == daybook::kNoMember ? result::CodedTexts::kNoText : text->codes[member]);
    return result::text_column(
        std::move(name), std::move(description),
        result::CodedTexts{std::move(codes), std::make_shared<TextArray>(text->dictionary)});
  }
  TextArray texts;
  for (const std::uint32_t member : members)
    texts.push_back(member == daybook::kNoMember ? "" : daybook::value_text(values, member));
  return result::text_column(std::move(name), std::move(description), std::move(texts));
}

result::TableColumn id_column(std::string_view name, std::string description, const TextArray& ids,
                              std::vector<std::uint32_t> members) {
  result::TableColumn column =
      result::text_column(std::string(name), std::move(description),
                          result::CodedTexts{std::move(members), std::make_shared<TextArray>(ids)});
  column.id_of = id_of(name);
  return column;
}

result::TableColumn key_column(std::string name, std::string description, const expression::GroupKey& key,
                               std::vector<std::uint32_t> codes) {
  const auto* texts = std::get_if<daybook::TextValues>(&key.labels);
  TextArray labels = texts == nullptr ? TextArray() : texts->dictionary;
  for (auto code = static_cast<std::uint32_t>(labels.size()); code <= key.distinct; ++code)
    labels.push_back(expression::label_text(key, code));
  result::TableColumn column = result::text_column(
      std::move(name), std::move(description),
      result::CodedTexts{std::move(codes), std::make_shared<TextArray>(std::move(labels))});
  column.always_shown = true;
  column.id_of = id_of(key.source);
  return column;
}

result::IdOf id_of(std::string_view column) {
  return column == daybook::role::kCustomerId  ? result::IdOf::customer
         : column == daybook::role::kProductId ? result::IdOf::product
                                               : result::IdOf::none;
}

OrError<daybook::ColumnValues> values_by_member(const std::string& option, const expression::Tree& tree,
                                                daybook::Level level, const expression::LineView& lines) {
  const auto expression = expression::Expression::compile(tree.root, tree.text, lines.schema());
  if (!expression) return in_option(option, expression.error());
  if (!expression::within(expression->grain(), expression::grain_of(level)))
    return usage_error(fmt::format("--{}: {} is not one value for each {}.", option, in_quotes(tree.text),
                                   daybook::to_text(level)));
  auto values = expression::column_of(*expression, lines.rows_of(level, expression->columns()));
  if (!values) return in_option(option, values.error());
  return std::move(*values);
}

void add_names(const daybook::Daybook& daybook, const expression::GroupKey& key,
               const std::vector<std::uint32_t>& codes, std::vector<result::TableColumn>& columns) {
  const daybook::Column* names = names_of(daybook, key);
  if (names == nullptr) return;
  std::vector<std::uint32_t> members = codes;
  std::replace(members.begin(), members.end(), key.distinct, daybook::kNoMember);
  columns.push_back(member_column(names->name, fmt::format("Name of the {}.", daybook::to_text(key.level)),
                                  names->values, members));
  columns.back().always_shown = columns.size() > 1 && columns[columns.size() - 2].always_shown;
}

std::string label_with_name(const daybook::Daybook& daybook, const expression::GroupKey& key,
                            std::uint32_t code) {
  const daybook::Column* names = names_of(daybook, key);
  const std::string name =
      names == nullptr || code == key.distinct ? "" : daybook::value_text(names->values, code);
  return name.empty() ? expression::label_text(key, code) : expression::label_text(key, code) + " " + name;
}

expression::GroupKey id_key(const daybook::Daybook& daybook, daybook::Level level) {
  const bool of_customers = level == daybook::Level::customer, of_orders = level == daybook::Level::order;
  expression::GroupKey key;
  key.source = of_customers ? daybook::role::kCustomerId
               : of_orders  ? daybook::role::kOrderId
                            : daybook::role::kProductId;
  key.level = level;
  key.grain = expression::grain_of(level);
  key.type = expression::ValueType::text;
  key.distinct = daybook.members(level);
  key.codes.resize(key.distinct);
  std::iota(key.codes.begin(), key.codes.end(), 0U);
  key.labels = daybook::TextValues{{},
                                   of_customers ? daybook.customer_ids()
                                   : of_orders  ? daybook.order_ids()
                                                : daybook.product_ids()};
  return key;
}

OrError<std::vector<expression::GroupKey>> keys_of(const std::string& option,
                                                   const std::vector<expression::Tree>& trees,
                                                   const expression::LineView& lines) {
  std::vector<expression::GroupKey> keys;
  for (const expression::Tree& tree : trees) {
    if (expression::has_aggregate(tree.root))
      return usage_error(
          fmt::format("--{}: {} is an aggregate of many lines, but here lines are grouped. Give it OVER "
                      "(PARTITION BY ...).",
                      option, in_quotes(tree.text)));
    if (tree.text == daybook::role::kCustomerId || tree.text == daybook::role::kProductId) {
      keys.push_back(id_key(lines.daybook(), tree.text == daybook::role::kCustomerId
                                                 ? daybook::Level::customer
                                                 : daybook::Level::product));
      continue;
    }
    const auto expression = expression::Expression::compile(tree.root, tree.text, lines.schema());
    if (!expression) return in_option(option, expression.error());
    auto key = expression::group_key(*expression, lines);
    if (!key) return in_option(option, key.error());
    keys.push_back(std::move(*key));
  }
  return keys;
}

}  // namespace pear::analysis
