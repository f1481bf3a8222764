#include "questions/prices/months.hpp"

#include <algorithm>
#include <map>

#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"

namespace pear::prices {
namespace {

struct MonthSums {
  DecimalSum quantity, amount;
  std::int64_t lowest = INT64_MAX, highest = INT64_MIN;
  std::uint32_t customers = 0, last_customer = daybook::kNoMember;
};

std::map<Month, MonthSums> sums_of(const daybook::Daybook& daybook, std::uint32_t product) {
  const daybook::Purchases purchases(daybook);
  const auto& quantities =
      std::get<daybook::DecimalValues>(daybook.find(daybook::role::kQuantity)->values).units;
  std::map<Month, MonthSums> months;
  daybook::walk_lines(daybook, {0, daybook.customers()}, [&](const daybook::LinePlace& place) {
    if (place.product != product || !purchases.is_of_product(place.line) || quantities[place.line] <= 0)
      return;
    const Decimal amount = Decimal::from_units(daybook.amounts()[place.line]);
    const Decimal quantity = Decimal::from_units(quantities[place.line]);
    MonthSums& month = months[month_of(daybook.date_of_order(place.order))];
    month.quantity.add(quantity);
    month.amount.add(amount);
    const std::int64_t price = price_of_piece(amount, quantity)->units();  // known to be within range
    month.lowest = std::min(month.lowest, price);
    month.highest = std::max(month.highest, price);
    if (month.last_customer != place.customer) ++month.customers;
    month.last_customer = place.customer;
  });
  return months;
}

}  // namespace

std::vector<MonthPrices> months_of(const daybook::Daybook& daybook, std::uint32_t product) {
  std::vector<MonthPrices> months;
  for (const auto& [month, sums] : sums_of(daybook, product)) {
    const Decimal quantity = *sums.quantity.total(), amount = *sums.amount.total();
    months.push_back({month, quantity.units(), amount.units(), price_of_piece(amount, quantity)->units(),
                      sums.lowest, sums.highest, sums.customers});
  }
  return months;
}

}  // namespace pear::prices
