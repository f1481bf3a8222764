// A product's price by month.
#include <algorithm>
#include <map>
#include <utility>

#include "base/date.hpp"
#include "daybook/purchases.hpp"
#include "expression/walk_lines.hpp"
#include "question/member_column.hpp"
#include "question/prices_tables.hpp"

namespace pear {
namespace {

struct MonthPrices {
  DecimalSum quantity, amount;
  std::int64_t lowest = INT64_MAX, highest = INT64_MIN;
  std::uint32_t customers = 0, last_customer = kNoMember;
};

std::map<Month, MonthPrices> months_of(const Daybook& daybook, std::uint32_t product) {
  const Purchases purchases(daybook);
  const auto& quantities = std::get<DecimalValues>(daybook.find(role::kQuantity)->values).units;
  std::map<Month, MonthPrices> months;
  walk_lines(daybook, {0, daybook.customers()}, [&](const LinePlace& place) {
    if (place.product != product || purchases.is_return(place.line) || quantities[place.line] <= 0) return;
    const Decimal amount = Decimal::from_units(daybook.amounts()[place.line]);
    const Decimal quantity = Decimal::from_units(quantities[place.line]);
    MonthPrices& month = months[month_of(daybook.date_of_order(place.order))];
    month.quantity.add(quantity);
    month.amount.add(amount);
    const std::int64_t price = price_of_piece(amount, quantity)->units();  // it was told before
    month.lowest = std::min(month.lowest, price);
    month.highest = std::max(month.highest, price);
    if (month.last_customer != place.customer) ++month.customers;
    month.last_customer = place.customer;
  });
  return months;
}

}  // namespace

Table price_months_table(const Daybook& daybook, std::uint32_t product) {
  TextArray names;
  std::vector<std::int64_t> customers, quantities, amounts, averages, lowest, highest;
  for (const auto& [month, prices] : months_of(daybook, product)) {
    names.push_back(to_text(month));
    customers.push_back(prices.customers);
    const Decimal quantity = *prices.quantity.total(), amount = *prices.amount.total();
    quantities.push_back(quantity.units());
    amounts.push_back(amount.units());
    averages.push_back(price_of_piece(amount, quantity)->units());
    lowest.push_back(prices.lowest);
    highest.push_back(prices.highest);
  }
  std::vector<std::uint32_t> products(names.size(), product);
  Table table{"months", "By month", "One row for each month in which the product was bought.", {}};
  table.columns = {
      id_column("product_id", "The product.", daybook.product_ids(), std::move(products)),
      text_column("month", "The month.", std::move(names)),
      integer_column("customers", Unit::count, "Customers who bought it.", std::move(customers)),
      integer_column("quantity", Unit::number, "Pieces bought.", std::move(quantities)),
      integer_column("amount", Unit::money, "What was paid for them.", std::move(amounts)),
      integer_column("average_price", Unit::money, "Amount by pieces.", std::move(averages)),
      integer_column("lowest_price", Unit::money, "Lowest price of a piece.", std::move(lowest)),
      integer_column("highest_price", Unit::money, "Highest price of a piece.", std::move(highest))};
  for (TableColumn& column : table.columns)
    if (column.unit == Unit::money) column.places = 2;
  return table;
}

}  // namespace pear
