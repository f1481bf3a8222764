#include "support/random_shop.hpp"

#include <algorithm>
#include <map>

#include <fmt/format.h>
#include <rapidcheck.h>

#include "base/date.hpp"
#include "base/decimal.hpp"

namespace pear::test {
namespace {

/// Codes by first appearance.
class Ids {
 public:
  std::uint32_t code(const std::string& id) {
    const auto [found, is_new] = codes_.try_emplace(id, static_cast<std::uint32_t>(texts_.size()));
    if (is_new) texts_.push_back(id);
    return found->second;
  }
  TextArray take() { return std::move(texts_); }

 private:
  std::map<std::string, std::uint32_t> codes_;
  TextArray texts_;
};

}  // namespace

int pick(int lowest, int highest) {
  return *rc::gen::resize(rc::kNominalSize, rc::gen::inRange(lowest, highest + 1));
}

Sales random_sales(bool with_times) {
  Sales sales;
  const int customers = pick(1, 6);
  const int days = pick(1, 400);
  const int lines = pick(1, 60);
  for (int i = 0; i < lines; ++i) {
    if (!sales.empty() && pick(0, 2) == 0) {  // a further line of the order before
      Sale further = sales.back();
      further.product_id = fmt::format("P{}", pick(1, 12));
      further.quantity = pick(-2, 5);
      sales.push_back(further);
      continue;
    }
    Sale sale;
    sale.customer_id = fmt::format("C{}", 8 + pick(1, customers));
    sale.order_id = fmt::format("A{}", pick(1, 3) == 1 ? pick(1, 12) : 100 + i);
    sale.date = to_text(Date{19'700 + pick(0, days)});
    if (with_times && pick(0, 1) == 1) sale.date += fmt::format(" {:02}:{:02}", pick(0, 23), pick(0, 59));
    sale.product_id = fmt::format("P{}", pick(1, 12));
    sale.quantity = pick(0, 4) == 0 ? -pick(1, 3) : pick(0, 9);
    sale.unit_price = pick(0, 9) == 0 ? -pick(1, 500) : pick(0, 5000);
    sales.push_back(sale);
  }
  return sales;
}

std::string to_csv(const Sales& sales) {
  std::string text = "order_id,order_date,customer_id,product_id,quantity,unit_price\n";
  for (const Sale& sale : sales)
    text += fmt::format("{},{},{},{},{},{}\n", sale.order_id, sale.date, sale.customer_id, sale.product_id,
                        sale.quantity, Decimal::from_units(sale.unit_price * 100).to_text());
  return text;
}

daybook::BuiltDaybook build(const Sales& sales) {
  daybook::LineTable table;
  Ids orders, customers, products;
  daybook::DecimalValues quantities, prices, amounts;
  daybook::FlagValues fees;
  bool any_time = false, any_fee = false;
  for (const Sale& sale : sales) {
    const Moment moment = *parse_iso_moment(sale.date);
    table.order.push_back(orders.code(sale.order_id));
    table.customer.push_back(customers.code(sale.customer_id));
    table.product.push_back(products.code(sale.product_id));
    table.days.push_back(moment.date.days);
    table.seconds.push_back(moment.second_of_day);
    any_time |= moment.second_of_day != Moment::kNoTime;
    fees.flags.push_back(sale.is_fee ? 1 : 0);
    any_fee |= sale.is_fee;
    quantities.units.push_back(sale.quantity * Decimal::kScale);
    prices.units.push_back(sale.unit_price * 100);
    amounts.units.push_back(sale.quantity * sale.unit_price * 100);
    table.is_return.push_back(sale.quantity < 0 || amounts.units.back() < 0 ? 1 : 0);
  }
  if (!any_time) table.seconds.clear();
  table.customer_ids = customers.take();
  table.order_ids = orders.take();
  table.product_ids = products.take();
  const auto add = [&](std::string_view name, daybook::ColumnValues values) {
    table.columns.push_back({{std::string(name), daybook::Level::line, std::move(values)}, {}});
  };
  add(daybook::role::kQuantity, std::move(quantities));
  add(daybook::role::kUnitPrice, std::move(prices));
  add(daybook::role::kAmount, std::move(amounts));
  if (any_fee) add(daybook::role::kIsFee, std::move(fees));
  return *daybook::build_daybook(std::move(table));
}

namespace {

daybook::Column random_texts(std::string name, daybook::Level level, std::uint32_t members,
                             const std::vector<std::string>& words) {
  std::vector<std::size_t> chosen;
  for (std::uint32_t i = 0; i < members; ++i)
    chosen.push_back(static_cast<std::size_t>(pick(0, static_cast<int>(words.size()))));
  daybook::TextValues values;
  std::vector<std::uint32_t> codes(words.size() + 1, daybook::kEmptyCode);
  for (std::size_t word = 0; word < words.size(); ++word) {
    if (std::find(chosen.begin(), chosen.end(), word) == chosen.end())
      continue;  // a dictionary has no unused texts
    codes[word] = static_cast<std::uint32_t>(values.dictionary.size());
    values.dictionary.push_back(words[word]);
  }
  for (const std::size_t word : chosen) values.codes.push_back(codes[word]);
  return {std::move(name), level, std::move(values)};
}

daybook::Column random_decimals(std::string name, daybook::Level level, std::uint32_t members) {
  daybook::DecimalValues values;
  for (std::uint32_t i = 0; i < members; ++i)
    values.units.push_back(pick(0, 5) == 0 ? daybook::kEmptyUnits : pick(0, 300) * 2500);
  return {std::move(name), level, std::move(values)};
}

}  // namespace

daybook::Daybook random_daybook() {
  daybook::Daybook daybook = build(random_sales()).daybook;
  const std::uint32_t orders = daybook.orders(), customers = daybook.customers(),
                      products = daybook.products(), lines = daybook.lines();
  daybook::DaybookParts parts = std::move(daybook).take_parts();
  parts.columns.push_back(
      random_texts("region", daybook::Level::customer, customers, {"East", "North", "West"}));
  parts.columns.push_back(random_decimals("credit_limit", daybook::Level::customer, customers));
  parts.columns.push_back(random_texts("channel", daybook::Level::order, orders, {"shop", "web"}));
  parts.columns.push_back(
      random_texts("category", daybook::Level::product, products, {"dye", "kit", "yarn"}));
  parts.columns.push_back(random_decimals("unit_cost", daybook::Level::product, products));
  parts.columns.push_back(random_texts("note", daybook::Level::line, lines, {"gift"}));
  const bool by_line = pick(0, 1) == 1;
  parts.columns.push_back(random_decimals(
      "list_price", by_line ? daybook::Level::line : daybook::Level::product, by_line ? lines : products));
  return daybook::Daybook(std::move(parts));
}

}  // namespace pear::test
