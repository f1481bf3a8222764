// A product's price by month.
#include <algorithm>
#include <map>
#include <utility>

#include "analysis/member_column.hpp"
#include "base/date.hpp"
#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"
#include "questions/prices/tables.hpp"

namespace pear::prices {
namespace {

struct MonthPrices {
  DecimalSum quantity, amount;
  std::int64_t lowest = INT64_MAX, highest = INT64_MIN;
  std::uint32_t customers = 0, last_customer = expression::kNoMember;
};

std::map<Month, MonthPrices> months_of(const daybook::Daybook& daybook, std::uint32_t product) {
  const daybook::Purchases purchases(daybook);
  const auto& quantities =
      std::get<daybook::DecimalValues>(daybook.find(daybook::role::kQuantity)->values).units;
  std::map<Month, MonthPrices> months;
  daybook::walk_lines(daybook, {0, daybook.customers()}, [&](const daybook::LinePlace& place) {
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

result::Table months_table(const daybook::Daybook& daybook, std::uint32_t product) {
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
  result::Table table{"months", "By month", "One row for each month in which the product was bought.", {}};
  table.columns = {
      analysis::id_column("product_id", "The product.", daybook.product_ids(), std::move(products)),
      result::text_column("month", "The month.", std::move(names)),
      result::integer_column("customers", result::Unit::count, "Customers who bought it.",
                             std::move(customers)),
      result::integer_column("quantity", result::Unit::number, "Pieces bought.", std::move(quantities)),
      result::integer_column("amount", result::Unit::money, "What was paid for them.", std::move(amounts)),
      result::integer_column("average_price", result::Unit::money, "Amount by pieces.", std::move(averages)),
      result::integer_column("lowest_price", result::Unit::money, "Lowest price of a piece.",
                             std::move(lowest)),
      result::integer_column("highest_price", result::Unit::money, "Highest price of a piece.",
                             std::move(highest))};
  for (result::TableColumn& column : table.columns)
    if (column.unit == result::Unit::money) column.places = 2;
  return table;
}

}  // namespace pear::prices
