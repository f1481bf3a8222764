#include "daybook/columns/derived_columns.hpp"

#include <algorithm>
#include <optional>
#include <utility>

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "daybook/columns/day_columns.hpp"
#include "daybook/columns/history_columns.hpp"
#include "daybook/columns/order_history.hpp"

namespace pear::daybook {

const std::vector<std::string_view>& derived_names() {
  static const std::vector<std::string_view> kNames = {"cost",
                                                       "margin",
                                                       "year",
                                                       "quarter",
                                                       "month",
                                                       "month_of_year",
                                                       "week",
                                                       "weekday",
                                                       "hour",
                                                       "first_order_date",
                                                       "first_year",
                                                       "first_month",
                                                       "last_order_date",
                                                       "customer_orders",
                                                       "customer_products",
                                                       "customer_amount",
                                                       "customer_class",
                                                       "product_class",
                                                       "order_number",
                                                       "orders_left",
                                                       "days_since_first",
                                                       "months_since_first",
                                                       "days_since_previous",
                                                       "is_first_order",
                                                       "order_kind",
                                                       "purchase_number",
                                                       "days_since_last_purchase",
                                                       "is_new_product"};
  return kNames;
}

namespace {

using Names = std::vector<std::string_view>;

const std::vector<std::int64_t>* decimals(const Daybook& daybook, std::string_view name, Level level) {
  const Column* column = daybook.find(name);
  if (column == nullptr || column->level != level) return nullptr;
  const auto* values = std::get_if<DecimalValues>(&column->values);
  return values == nullptr ? nullptr : &values->units;
}

/// Quantity times the cost of a piece, for each line; the line's amount less that if `margin`.
std::optional<Column> of_cost(const Daybook& daybook, bool margin) {
  const auto* quantities = decimals(daybook, role::kQuantity, Level::line);
  const auto* amounts = decimals(daybook, role::kAmount, Level::line);
  const auto* by_product = decimals(daybook, role::kUnitCost, Level::product);
  const auto* by_line = decimals(daybook, role::kUnitCost, Level::line);
  if (quantities == nullptr || amounts == nullptr || (by_product == nullptr && by_line == nullptr))
    return std::nullopt;
  DecimalValues values{std::vector<std::int64_t>(daybook.lines(), kEmptyUnits)};
  tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, daybook.lines(), 65'536), [&](const auto& run) {
    for (std::uint32_t line = run.begin(); line != run.end(); ++line) {
      const std::int64_t unit =
          by_line != nullptr ? (*by_line)[line] : (*by_product)[daybook.line_products()[line]];
      if (unit == kEmptyUnits || (*quantities)[line] == kEmptyUnits) continue;
      auto value = checked_multiply(Decimal::from_units((*quantities)[line]), Decimal::from_units(unit));
      if (value && margin) value = checked_subtract(Decimal::from_units((*amounts)[line]), *value);
      if (value) values.units[line] = value->units();
    }
  });
  return Column{margin ? "margin" : "cost", Level::line, std::move(values)};
}

std::optional<Column> hours(const Daybook& daybook) {
  DecimalValues values;
  const Column* times = daybook.find(role::kOrderTime);
  for (const std::int32_t second : std::get<TimeValues>(times->values).seconds)
    values.units.push_back(second == Moment::kNoTime ? kEmptyUnits : second / 3600 * Decimal::kScale);
  return Column{"hour", Level::order, std::move(values)};
}

/// The stored columns that a derived column needs; none for a name that is not derived.
Names inputs_of_one(std::string_view name) {
  if (name == "cost" || name == "margin")
    return {role::kQuantity, role::kAmount, role::kUnitCost, role::kProductId};
  if (name == "hour") return {role::kOrderTime};
  if (name == "customer_products") return {role::kOrderDate, role::kIsReturn, role::kProductId};
  if (name == "product_class") return {role::kAmount, role::kProductId};
  if (name == "customer_amount" || name == "customer_class")
    return {role::kOrderDate, role::kIsReturn, role::kAmount};
  if (is_purchase_history_column(name)) return {role::kOrderDate, role::kIsReturn, role::kProductId};
  if (is_history_column(name) || is_order_history_column(name)) return {role::kOrderDate, role::kIsReturn};
  return {role::kOrderDate};
}

bool is_derived(std::string_view name) {
  return std::find(derived_names().begin(), derived_names().end(), name) != derived_names().end();
}

bool has(const Daybook& daybook, std::string_view input) {
  return input == role::kProductId ? !daybook.parts().line_products.empty() : daybook.find(input) != nullptr;
}

std::optional<Column> derived(std::string_view name, const Daybook& daybook) {
  for (const std::string_view input : inputs_of_one(name)) {
    if (!has(daybook, input)) return std::nullopt;
  }
  const auto of_order = [&](ColumnValues values) {
    return Column{std::string(name), Level::order, std::move(values)};
  };
  if (name == "cost" || name == "margin") return of_cost(daybook, name == "margin");
  if (name == "hour") return hours(daybook);
  if (is_history_column(name)) return history_column(name, daybook);
  if (is_order_history_column(name)) return order_history_column(name, daybook);
  const auto days = daybook.order_days();
  if (name == "year") return of_order(years_of(days));
  if (name == "quarter") return of_order(quarters_of(days));
  if (name == "month") return of_order(months_of(days));
  if (name == "month_of_year") return of_order(months_of_year_of(days));
  if (name == "week") return of_order(weeks_of(days));
  return of_order(weekdays_of(days));
}

template <class Array>
bool holds(const Array& names, std::string_view name) {
  return std::find(names.begin(), names.end(), name) != names.end();
}

}  // namespace

std::vector<std::string> known_columns(std::vector<std::string> stored) {
  std::vector<std::string> known = stored;
  for (const std::string_view name : derived_names()) {
    const Names inputs = inputs_of_one(name);
    if (!holds(stored, name) && std::all_of(inputs.begin(), inputs.end(),
                                            [&](std::string_view input) { return holds(stored, input); }))
      known.emplace_back(name);
  }
  return known;
}

std::vector<std::string> inputs_of(const std::vector<std::string>& names) {
  std::vector<std::string> inputs = names;  // a stored column of the same name takes precedence
  for (const std::string& name : names) {
    if (!is_derived(name)) continue;
    for (const std::string_view input : inputs_of_one(name)) {
      if (!holds(inputs, input)) inputs.emplace_back(input);
    }
  }
  return inputs;
}

Daybook completed(Daybook daybook, const std::vector<std::string>& names) {
  std::vector<Column> more;
  for (const std::string& name : names) {
    if (!is_derived(name) || daybook.find(name) != nullptr) continue;
    if (auto column = derived(name, daybook)) more.push_back(std::move(*column));
  }
  std::optional<Date> data_end = daybook.parts().data_end;
  if (!data_end && daybook.find(role::kOrderDate) != nullptr && daybook.orders() > 0) {
    const auto days = daybook.order_days();
    data_end = Date{*std::max_element(days.begin(), days.end())};
  }
  if (more.empty() && data_end == daybook.parts().data_end) return daybook;
  DaybookParts parts = std::move(daybook).take_parts();
  parts.data_end = data_end;
  for (Column& column : more) parts.columns.push_back(std::move(column));
  return Daybook(std::move(parts));
}

std::span<const std::int64_t> known_margins(const Daybook& daybook) {
  const auto* margins = decimals(daybook, "margin", Level::line);
  if (margins == nullptr ||
      std::all_of(margins->begin(), margins->end(), [](std::int64_t units) { return units == kEmptyUnits; }))
    return {};
  return *margins;
}

}  // namespace pear::daybook
