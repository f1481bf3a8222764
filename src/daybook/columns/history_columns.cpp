#include "daybook/columns/history_columns.hpp"

#include <algorithm>
#include <array>
#include <string>
#include <utility>

#include "daybook/by_customer.hpp"
#include "daybook/columns/day_columns.hpp"
#include "daybook/columns/value_classes.hpp"
#include "daybook/purchases.hpp"

namespace pear::daybook {
namespace {

/// The days of the first or last order (returns do not count); kEmptyDays for customers without one.
DateValues order_dates(const Daybook& daybook, bool first) {
  const Purchases purchases(daybook);
  return {by_customer<std::int32_t>(daybook, [&](std::uint32_t customer) {
    const Run orders = daybook.orders_of(customer);
    for (std::uint32_t i = 0; i < orders.size(); ++i) {
      const std::uint32_t order = first ? orders.begin + i : orders.end - 1 - i;
      if (purchases.is_order(order)) return daybook.date_of_order(order).days;
    }
    return kEmptyDays;
  })};
}

DecimalValues order_counts(const Daybook& daybook) {
  const Purchases purchases(daybook);
  return {by_customer<std::int64_t>(daybook, [&](std::uint32_t customer) {
    std::int64_t orders = 0;
    const Run run = daybook.orders_of(customer);
    for (std::uint32_t order = run.begin; order < run.end; ++order)
      orders += purchases.is_order(order) ? 1 : 0;
    return orders * Decimal::kScale;
  })};
}

DecimalValues product_counts(const Daybook& daybook) {
  const Purchases purchases(daybook);
  const auto products = daybook.line_products();
  return {by_customer<std::int64_t>(daybook, [&](std::uint32_t customer) {
    std::vector<std::uint32_t> bought;
    const Run lines = lines_of_customer(daybook, customer);
    for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
      if (purchases.is_of_product(line)) bought.push_back(products[line]);
    }
    std::sort(bought.begin(), bought.end());
    return (std::unique(bought.begin(), bought.end()) - bought.begin()) * Decimal::kScale;
  })};
}

DecimalValues amounts_of_customers(const Daybook& daybook) {
  const auto amounts = daybook.amounts();
  return {by_customer<std::int64_t>(daybook, [&](std::uint32_t customer) {
    DecimalSum sum;
    const Run lines = lines_of_customer(daybook, customer);
    for (std::uint32_t line = lines.begin; line < lines.end; ++line)
      sum.add(Decimal::from_units(amounts[line]));
    const auto total = sum.total();
    return total ? total->units() : kEmptyUnits;
  })};
}

}  // namespace

bool is_history_column(std::string_view name) {
  constexpr std::array<std::string_view, 9> kNames = {
      "first_order_date",  "first_year",      "first_month",    "last_order_date", "customer_orders",
      "customer_products", "customer_amount", "customer_class", "product_class"};
  return std::find(kNames.begin(), kNames.end(), name) != kNames.end();
}

std::optional<Column> history_column(std::string_view name, const Daybook& daybook) {
  const auto column = [&](ColumnValues values) {
    return Column{std::string(name), Level::customer, std::move(values)};
  };
  if (name == "first_order_date") return column(order_dates(daybook, true));
  if (name == "last_order_date") return column(order_dates(daybook, false));
  if (name == "first_year") return column(years_of(order_dates(daybook, true).days));
  if (name == "first_month") return column(months_of(order_dates(daybook, true).days));
  if (name == "customer_orders") return column(order_counts(daybook));
  if (name == "customer_products") return column(product_counts(daybook));
  if (name == "customer_amount") return column(amounts_of_customers(daybook));
  if (name == "customer_class") {
    std::vector<std::int64_t> amounts = amounts_of_customers(daybook).units;
    std::replace(amounts.begin(), amounts.end(), kEmptyUnits, std::int64_t{0});  // out of range
    return column(value_classes(amounts));
  }
  if (name == "product_class")
    return Column{std::string(name), Level::product, value_classes(product_amounts(daybook))};
  return std::nullopt;
}

}  // namespace pear::daybook
