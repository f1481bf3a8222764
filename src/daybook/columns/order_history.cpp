#include "daybook/columns/order_history.hpp"

#include <algorithm>
#include <array>
#include <string>
#include <utility>
#include <vector>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "base/whole_months.hpp"
#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"

namespace pear::daybook {
namespace {

constexpr std::array<std::string_view, 7> kOfOrders = {
    "order_number",        "orders_left",    "days_since_first", "months_since_first",
    "days_since_previous", "is_first_order", "order_kind"};
constexpr std::array<std::string_view, 3> kOfPurchases = {"purchase_number", "days_since_last_purchase",
                                                          "is_new_product"};

/// What is known at an order of a customer's history.
struct OrderPlace {
  std::uint32_t number = 0;  ///< from 1; 0 for one that contains only returns
  std::uint32_t of = 0;      ///< the customer's orders in all
  std::int32_t day = 0;
  std::int32_t first_day = kEmptyDays;     ///< kEmptyDays before the first order
  std::int32_t previous_day = kEmptyDays;  ///< of the order before
};

/// visit(order, place) for all orders of all customers, on all threads.
template <class Visit>
void for_each_order(const Daybook& daybook, const Visit& visit) {
  const Purchases purchases(daybook);
  for_each_customer_run(daybook, [&](CustomerRun run) {
    for (std::uint32_t customer = run.begin; customer != run.end; ++customer) {
      const Run orders = daybook.orders_of(customer);
      OrderPlace place;
      for (std::uint32_t order = orders.begin; order < orders.end; ++order)
        if (purchases.is_order(order)) ++place.of;
      std::uint32_t placed = 0;
      std::int32_t last_day = kEmptyDays;
      for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
        place.day = daybook.date_of_order(order).days;
        const bool is_order = purchases.is_order(order);
        place.number = is_order ? ++placed : 0;
        if (is_order && placed == 1) place.first_day = place.day;
        place.previous_day = last_day;
        visit(order, place);
        if (is_order) last_day = place.day;
      }
    }
  });
}

/// The number of a place, or nothing.
std::optional<std::int64_t> number_of(std::string_view name, const OrderPlace& place) {
  if (place.number == 0) return std::nullopt;
  if (name == "order_number") return place.number;
  if (name == "orders_left") return place.of - place.number;
  if (name == "days_since_first") return place.day - place.first_day;
  if (name == "months_since_first") return whole_months_between(Date{place.first_day}, Date{place.day});
  if (place.number == 1) return std::nullopt;
  return place.day - place.previous_day;  // days_since_previous
}

Column numbers_of_orders(std::string_view name, const Daybook& daybook) {
  DecimalValues values{std::vector<std::int64_t>(daybook.orders(), kEmptyUnits)};
  for_each_order(daybook, [&](std::uint32_t order, const OrderPlace& place) {
    if (const auto number = number_of(name, place)) values.units[order] = *number * Decimal::kScale;
  });
  return {std::string(name), Level::order, std::move(values)};
}

Column first_orders(const Daybook& daybook) {
  FlagValues values{std::vector<std::uint8_t>(daybook.orders())};
  for_each_order(daybook, [&](std::uint32_t order, const OrderPlace& place) {
    values.flags[order] = place.number == 1 ? 1 : 0;
  });
  return {"is_first_order", Level::order, std::move(values)};
}

Column order_kinds(const Daybook& daybook) {
  TextValues values{std::vector<std::uint32_t>(daybook.orders(), kEmptyCode), {}};
  values.dictionary.push_back("new");
  values.dictionary.push_back("returning");
  for_each_order(daybook, [&](std::uint32_t order, const OrderPlace& place) {
    if (place.first_day != kEmptyDays) values.codes[order] = place.number == 1 ? 0 : 1;
  });
  return {"order_kind", Level::order, std::move(values)};
}

/// A line with a purchase, as one of its customer's purchases of the product.
struct PurchasePlace {
  std::uint32_t number = 0;  ///< from 1, by order
  std::int32_t day = 0;
  std::int32_t previous_day = kEmptyDays;
};

/// visit(line, place) for all lines with purchases, on all threads. Lines of one order with the same product
/// have the same place.
template <class Visit>
void for_each_purchase(const Daybook& daybook, const Visit& visit) {
  const Purchases purchases(daybook);
  const auto products = daybook.line_products();
  const auto days = daybook.order_days();
  for_each_customer_run(daybook, [&](CustomerRun run) {
    struct Latest {  // purchase of a product by the customer who bought it last
      std::uint32_t customer = kNoMember, order = kNoMember;
      PurchasePlace place;
    };
    std::vector<Latest> by_product(daybook.products());
    walk_lines(daybook, run, [&](const LinePlace& place) {
      if (!purchases.is_of_product(place.line)) return;
      Latest& latest = by_product[products[place.line]];
      const bool is_new = latest.customer != place.customer;
      if (is_new || latest.order != place.order) {
        const PurchasePlace before = is_new ? PurchasePlace{} : latest.place;
        latest = {place.customer,
                  place.order,
                  {before.number + 1, days[place.order], is_new ? kEmptyDays : before.day}};
      }
      visit(place.line, latest.place);
    });
  });
}

Column numbers_of_purchases(std::string_view name, const Daybook& daybook) {
  DecimalValues values{std::vector<std::int64_t>(daybook.lines(), kEmptyUnits)};
  for_each_purchase(daybook, [&](std::uint32_t line, const PurchasePlace& place) {
    if (name == "purchase_number")
      values.units[line] = place.number * Decimal::kScale;
    else if (place.previous_day != kEmptyDays)
      values.units[line] = (place.day - place.previous_day) * Decimal::kScale;
  });
  return {std::string(name), Level::line, std::move(values)};
}

Column new_products(const Daybook& daybook) {
  FlagValues values{std::vector<std::uint8_t>(daybook.lines())};
  for_each_purchase(daybook, [&](std::uint32_t line, const PurchasePlace& place) {
    values.flags[line] = place.number == 1 ? 1 : 0;
  });
  return {"is_new_product", Level::line, std::move(values)};
}

template <class Names>
bool is_among(std::string_view name, const Names& names) {
  return std::find(names.begin(), names.end(), name) != names.end();
}

}  // namespace

bool is_purchase_history_column(std::string_view name) { return is_among(name, kOfPurchases); }

bool is_order_history_column(std::string_view name) {
  return is_among(name, kOfOrders) || is_purchase_history_column(name);
}

std::optional<Column> order_history_column(std::string_view name, const Daybook& daybook) {
  if (!is_order_history_column(name)) return std::nullopt;
  if (name == "is_first_order") return first_orders(daybook);
  if (name == "order_kind") return order_kinds(daybook);
  if (name == "is_new_product") return new_products(daybook);
  return is_purchase_history_column(name) ? numbers_of_purchases(name, daybook)
                                          : numbers_of_orders(name, daybook);
}

}  // namespace pear::daybook
