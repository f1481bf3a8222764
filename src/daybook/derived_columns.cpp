#include "daybook/derived_columns.hpp"

#include <algorithm>
#include <array>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <utility>

#include <date/date.h>
#include <date/iso_week.h>
#include <fmt/format.h>

#include "base/decimal.hpp"

namespace pear {
namespace {

const std::vector<std::int64_t>* decimals(const Daybook& daybook, std::string_view name, Level level) {
  const Column* column = daybook.find(name);
  if (column == nullptr || column->level != level) return nullptr;
  const auto* values = std::get_if<DecimalValues>(&column->values);
  return values == nullptr ? nullptr : &values->units;
}

/// Cost and margin of each line.
std::optional<std::pair<Column, Column>> costs(const Daybook& daybook) {
  const auto* quantities = decimals(daybook, role::kQuantity, Level::line);
  const auto* amounts = decimals(daybook, role::kAmount, Level::line);
  const auto* by_product = decimals(daybook, role::kUnitCost, Level::product);
  const auto* by_line = decimals(daybook, role::kUnitCost, Level::line);
  if (quantities == nullptr || amounts == nullptr || (by_product == nullptr && by_line == nullptr))
    return std::nullopt;
  DecimalValues cost, margin;
  for (std::uint32_t line = 0; line < daybook.lines(); ++line) {
    const std::int64_t unit =
        by_line != nullptr ? (*by_line)[line] : (*by_product)[daybook.line_products()[line]];
    std::optional<Decimal> of_line;
    if (unit != kEmptyUnits)
      of_line = checked_multiply(Decimal::from_units((*quantities)[line]), Decimal::from_units(unit));
    std::optional<Decimal> left;
    if (of_line) left = checked_subtract(Decimal::from_units((*amounts)[line]), *of_line);
    cost.units.push_back(of_line ? of_line->units() : kEmptyUnits);
    margin.units.push_back(left ? left->units() : kEmptyUnits);
  }
  return std::pair(Column{"cost", Level::line, std::move(cost)},
                   Column{"margin", Level::line, std::move(margin)});
}

/// A column of the order that follows from its day; each day is worked out once.
template <class Values, class Make>
Column by_day(std::string name, const Daybook& daybook, Make make) {
  Values values;
  auto& array = array_of(values);
  std::map<std::int32_t, typename std::remove_reference_t<decltype(array)>::value_type> known;
  for (const std::int32_t day : daybook.order_days()) {
    auto found = known.find(day);
    if (found == known.end()) found = known.emplace(day, make(day, values)).first;
    array.push_back(found->second);
  }
  return {std::move(name), Level::order, std::move(values)};
}

Column number_of_day(std::string name, const Daybook& daybook,
                     const std::function<std::int64_t(const date::year_month_day&)>& of) {
  return by_day<DecimalValues>(std::move(name), daybook, [&](std::int32_t day, DecimalValues& /*values*/) {
    return of(date::year_month_day{date::sys_days{date::days{day}}}) * Decimal::kScale;
  });
}

/// Texts that stand in natural order in the dictionary, as a daybook's do.
Column text_of_day(std::string name, const Daybook& daybook,
                   const std::function<std::string(std::int32_t)>& of) {
  std::map<std::string, std::uint32_t> codes;  // these texts sort as bytes
  for (const std::int32_t day : daybook.order_days()) codes.emplace(of(day), 0);
  TextArray dictionary;
  for (auto& [text, code] : codes) {
    code = static_cast<std::uint32_t>(dictionary.size());
    dictionary.push_back(text);
  }
  Column column = by_day<TextValues>(
      std::move(name), daybook, [&](std::int32_t day, TextValues& /*values*/) { return codes.at(of(day)); });
  std::get<TextValues>(column.values).dictionary = std::move(dictionary);
  return column;
}

unsigned month_number(const date::year_month_day& day) { return static_cast<unsigned>(day.month()); }
int year_number(const date::year_month_day& day) { return static_cast<int>(day.year()); }

std::string quarter(std::int32_t days) {
  const date::year_month_day day{date::sys_days{date::days{days}}};
  return fmt::format("{:04}-Q{}", year_number(day), (month_number(day) + 2) / 3);
}

std::string week(std::int32_t days) {
  const iso_week::year_weeknum_weekday week{date::sys_days{date::days{days}}};
  return fmt::format("{:04}-W{:02}", static_cast<int>(week.year()), static_cast<unsigned>(week.weeknum()));
}

std::string weekday(std::int32_t days) {
  constexpr std::array<const char*, 7> kNames = {"1 Mon", "2 Tue", "3 Wed", "4 Thu",
                                                 "5 Fri", "6 Sat", "7 Sun"};
  const date::weekday day{date::sys_days{date::days{days}}};
  return kNames.at(day.iso_encoding() - 1);
}

}  // namespace

std::vector<Column> derived_columns(const Daybook& daybook) {
  std::vector<Column> columns;
  if (auto both = costs(daybook)) {
    columns.push_back(std::move(both->first));
    columns.push_back(std::move(both->second));
  }
  if (daybook.find(role::kOrderDate) != nullptr) {
    columns.push_back(number_of_day("year", daybook, year_number));
    columns.push_back(text_of_day("quarter", daybook, quarter));
    columns.push_back(
        text_of_day("month", daybook, [](std::int32_t day) { return to_text(month_of(Date{day})); }));
    columns.push_back(number_of_day("month_of_year", daybook, month_number));
    columns.push_back(text_of_day("week", daybook, week));
    columns.push_back(text_of_day("weekday", daybook, weekday));
  }
  if (const Column* times = daybook.find(role::kOrderTime)) {
    DecimalValues hours;
    for (const std::int32_t second : std::get<TimeValues>(times->values).seconds)
      hours.units.push_back(second == Moment::kNoTime ? kEmptyUnits : second / 3600 * Decimal::kScale);
    columns.push_back({"hour", Level::order, std::move(hours)});
  }
  return columns;
}

}  // namespace pear
