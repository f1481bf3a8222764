#include "question/member_column.hpp"

#include <algorithm>
#include <memory>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "expression/measure.hpp"
#include "question/tree_option.hpp"

namespace pear {
namespace {

template <class T>
std::vector<std::int64_t> picked(const std::vector<T>& values, T empty,
                                 const std::vector<std::uint32_t>& members) {
  std::vector<std::int64_t> result;
  result.reserve(members.size());
  for (const std::uint32_t member : members) {
    const T value = member == kNoMember ? empty : values[member];
    result.push_back(value == empty ? kEmptyCell : std::int64_t{value});
  }
  return result;
}

/// The names of what has ids, by code of their key; null where there are none.
const Column* names_of(const Daybook& daybook, const GroupKey& key) {
  const bool of_products = key.source == role::kProductId, of_customers = key.source == role::kCustomerId;
  const Column* names = of_products    ? daybook.find("product_name")
                        : of_customers ? daybook.find("customer_name")
                                       : nullptr;
  return names != nullptr && names->level == key.level ? names : nullptr;
}

}  // namespace

TableColumn member_column(std::string name, std::string description, const ColumnValues& values,
                          const std::vector<std::uint32_t>& members) {
  if (const auto* decimal = std::get_if<DecimalValues>(&values)) {
    const bool money = measure_of_column(name) == Measure::money;
    return integer_column(std::move(name), money ? Unit::money : Unit::number, std::move(description),
                          picked(decimal->units, kEmptyUnits, members));
  }
  if (const auto* date = std::get_if<DateValues>(&values))
    return integer_column(std::move(name), Unit::date, std::move(description),
                          picked(date->days, kEmptyDays, members));
  if (const auto* text = std::get_if<TextValues>(&values)) {
    std::vector<std::uint32_t> codes;
    codes.reserve(members.size());
    for (const std::uint32_t member : members)
      codes.push_back(member == kNoMember ? CodedTexts::kNoText : text->codes[member]);
    return text_column(std::move(name), std::move(description),
                       CodedTexts{std::move(codes), std::make_shared<TextArray>(text->dictionary)});
  }
  TextArray texts;
  for (const std::uint32_t member : members)
    texts.push_back(member == kNoMember ? "" : value_text(values, member));
  return text_column(std::move(name), std::move(description), std::move(texts));
}

TableColumn id_column(std::string_view name, std::string description, const TextArray& ids,
                      std::vector<std::uint32_t> members) {
  return text_column(std::string(name), std::move(description),
                     CodedTexts{std::move(members), std::make_shared<TextArray>(ids)});
}

TableColumn key_column(std::string name, std::string description, const GroupKey& key,
                       std::vector<std::uint32_t> codes) {
  const auto* texts = std::get_if<TextValues>(&key.labels);
  TextArray labels = texts == nullptr ? TextArray() : texts->dictionary;
  for (auto code = static_cast<std::uint32_t>(labels.size()); code <= key.distinct; ++code)
    labels.push_back(label_text(key, code));
  TableColumn column =
      text_column(std::move(name), std::move(description),
                  CodedTexts{std::move(codes), std::make_shared<TextArray>(std::move(labels))});
  column.always_shown = true;
  return column;
}

OrError<ColumnValues> values_by_member(const std::string& option, const Tree& tree, Level level,
                                       const LineView& lines) {
  const auto expression = Expression::compile(tree.root, tree.text, lines.schema());
  if (!expression) return in_option(option, expression.error());
  if (!within(expression->grain(), grain_of(level)))
    return usage_error(
        fmt::format("--{}: {} is not one value for each {}.", option, in_quotes(tree.text), to_text(level)));
  auto values = column_of(*expression, lines.rows_of(level));
  if (!values) return in_option(option, values.error());
  return std::move(*values);
}

void add_names(const Daybook& daybook, const GroupKey& key, const std::vector<std::uint32_t>& codes,
               std::vector<TableColumn>& columns) {
  const Column* names = names_of(daybook, key);
  if (names == nullptr) return;
  std::vector<std::uint32_t> members = codes;
  std::replace(members.begin(), members.end(), key.distinct, kNoMember);
  columns.push_back(
      member_column(names->name, fmt::format("Name of the {}.", to_text(key.level)), names->values, members));
  columns.back().always_shown = columns.size() > 1 && columns[columns.size() - 2].always_shown;
}

std::string label_with_name(const Daybook& daybook, const GroupKey& key, std::uint32_t code) {
  const Column* names = names_of(daybook, key);
  const std::string name = names == nullptr || code == key.distinct ? "" : value_text(names->values, code);
  return name.empty() ? label_text(key, code) : label_text(key, code) + " " + name;
}

OrError<std::vector<TableColumn>> customer_columns(const std::vector<Tree>& with,
                                                   const std::vector<std::uint32_t>& customers,
                                                   const LineView& lines) {
  std::vector<TableColumn> columns;
  for (const Tree& tree : with) {
    PEAR_ASSIGN(const ColumnValues values, values_by_member("with", tree, Level::customer, lines));
    columns.push_back(
        member_column(tree.name, fmt::format("{} of the customer.", tree.name), values, customers));
  }
  return columns;
}

GroupKey id_key(const Daybook& daybook, Level level) {
  const bool of_customers = level == Level::customer, of_orders = level == Level::order;
  GroupKey key;
  key.source = of_customers ? role::kCustomerId : of_orders ? role::kOrderId : role::kProductId;
  key.level = level;
  key.grain = grain_of(level);
  key.type = ValueType::text;
  key.distinct = daybook.members(level);
  key.codes.resize(key.distinct);
  std::iota(key.codes.begin(), key.codes.end(), 0U);
  key.labels = TextValues{{},
                          of_customers ? daybook.customer_ids()
                          : of_orders  ? daybook.order_ids()
                                       : daybook.product_ids()};
  return key;
}

OrError<std::vector<GroupKey>> keys_of(const std::string& option, const std::vector<Tree>& trees,
                                       const LineView& lines) {
  std::vector<GroupKey> keys;
  for (const Tree& tree : trees) {
    if (has_aggregate(tree.root))
      return usage_error(
          fmt::format("--{}: {} is an aggregate of many lines, and this puts lines into groups. Give it OVER "
                      "(PARTITION BY ...).",
                      option, in_quotes(tree.text)));
    if (tree.text == role::kCustomerId || tree.text == role::kProductId) {
      keys.push_back(
          id_key(lines.daybook(), tree.text == role::kCustomerId ? Level::customer : Level::product));
      continue;
    }
    const auto expression = Expression::compile(tree.root, tree.text, lines.schema());
    if (!expression) return in_option(option, expression.error());
    auto key = group_key(*expression, lines);
    if (!key) return in_option(option, key.error());
    keys.push_back(std::move(*key));
  }
  return keys;
}

}  // namespace pear
