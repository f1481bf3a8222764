#include "questions/lookup/product_buyers.hpp"

#include <algorithm>
#include <optional>

#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"

namespace pear::lookup {
namespace {

std::span<const std::int64_t> line_decimals(const daybook::Daybook& daybook, std::string_view name) {
  const daybook::Column* column = daybook.find(name);
  if (column == nullptr || column->level != daybook::Level::line) return {};
  return std::get<daybook::DecimalValues>(column->values).units;
}

/// Collects the facts, customer by customer and order by order.
class Gatherer {
 public:
  Gatherer(const daybook::Daybook& daybook, std::uint32_t product)
      : daybook_(daybook),
        product_(product),
        purchases_(daybook),
        products_(daybook.line_products()),
        amounts_(daybook.amounts()),
        quantities_(line_decimals(daybook, daybook::role::kQuantity)),
        prices_(line_decimals(daybook, daybook::role::kUnitPrice)) {
    facts_.orders_with.resize(daybook.products());
    facts_.has_quantities = !quantities_.empty();
  }

  ProductBuyers gather() {
    for (customer_ = 0; customer_ < daybook_.customers(); ++customer_) {
      const daybook::Run orders = daybook_.orders_of(customer_);
      for (std::uint32_t order = orders.begin; order < orders.end; ++order) add_order(order);
    }
    for (const auto& [customer, sum] : facts_.buyers) facts_.bought_again += sum.orders > 1 ? 1U : 0U;
    std::erase_if(facts_.buyers, [](const auto& buyer) { return buyer.second.orders == 0; });
    facts_.all.customers = facts_.buyers.size();
    return std::move(facts_);
  }

 private:
  /// Lines of an order are sorted by product.
  void add_order(std::uint32_t order) {
    const daybook::Run lines = daybook_.lines_of(order);
    const auto begin = products_.begin() + lines.begin, end = products_.begin() + lines.end;
    const auto own = std::equal_range(begin, end, product_);
    if (own.first == own.second) return;
    if (facts_.buyers.empty() || facts_.buyers.back().first != customer_)
      facts_.buyers.push_back({customer_, {}});
    const std::int32_t day = daybook_.date_of_order(order).days;
    const Month month = month_of(Date{day});
    bool is_bought = false;
    for (auto each = own.first; each != own.second; ++each) {
      const auto line = static_cast<std::uint32_t>(each - products_.begin());
      is_bought |= !purchases_.is_return(line);
      for (PurchaseSum* sum : {&facts_.all, &facts_.buyers.back().second, &facts_.months[month]})
        add_line(line, day, *sum);
      if (purchases_.is_return(line)) {
        ++facts_.return_lines;
      } else if (const auto price = price_paid(line)) {
        add_price(line, price->units());
      }
    }
    if (!is_bought) return;
    ++facts_.all.orders;
    ++facts_.buyers.back().second.orders;
    PurchaseSum& of_month = facts_.months[month];
    ++of_month.orders;
    if (month_seen_[month] != customer_ + 1) ++of_month.customers;
    month_seen_[month] = customer_ + 1;
    add_companions(lines);
  }

  void add_line(std::uint32_t line, std::int32_t day, PurchaseSum& sum) const {
    const Decimal amount = Decimal::from_units(amounts_[line]);
    const bool known = facts_.has_quantities && quantities_[line] != daybook::kEmptyUnits;
    sum.amount.add(amount);
    if (purchases_.is_return(line)) {
      if (known) sum.returned.add(Decimal::from_units(std::abs(quantities_[line])));
      return;
    }
    if (sum.lines++ == 0) {
      sum.first_day = day;
      sum.lowest_price = sum.highest_price = daybook::kEmptyUnits;
    }
    sum.first_day = std::min(sum.first_day, day);
    sum.last_day = sum.lines == 1 ? day : std::max(sum.last_day, day);
    sum.bought.add(amount);
    if (known) sum.quantity.add(Decimal::from_units(quantities_[line]));
    const auto price = price_paid(line);
    if (!price) return;
    const bool first = sum.lowest_price == daybook::kEmptyUnits;
    sum.lowest_price = first ? price->units() : std::min(sum.lowest_price, price->units());
    sum.highest_price = first ? price->units() : std::max(sum.highest_price, price->units());
  }

  /// Per piece, after discounts.
  [[nodiscard]] std::optional<Decimal> price_paid(std::uint32_t line) const {
    if (!facts_.has_quantities || quantities_[line] == daybook::kEmptyUnits) return {};
    return price_of_piece(Decimal::from_units(amounts_[line]), Decimal::from_units(quantities_[line]));
  }

  void add_price(std::uint32_t line, std::int64_t paid) {
    PriceFacts& price = facts_.prices[paid];
    const std::int64_t before = prices_.empty() ? daybook::kEmptyUnits : prices_[line];
    if (price.lines++ == 0) price.before_discount = before;
    if (price.before_discount != before) price.before_discount = daybook::kEmptyUnits;
    price.quantity.add(Decimal::from_units(quantities_[line]));
    std::uint32_t& seen = price_seen_[paid];
    if (seen != customer_ + 1) ++price.customers;
    seen = customer_ + 1;
  }

  void add_companions(daybook::Run lines) {
    std::uint32_t before = product_;
    for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
      const std::uint32_t other = products_[line];
      if (other == product_ || other == before || !purchases_.is_of_product(line)) continue;
      ++facts_.orders_with[other];
      before = other;
    }
  }

  const daybook::Daybook& daybook_;
  std::uint32_t product_;
  daybook::Purchases purchases_;
  std::span<const std::uint32_t> products_;
  std::span<const std::int64_t> amounts_, quantities_, prices_;
  std::uint32_t customer_ = 0;
  std::map<Month, std::uint32_t> month_seen_;  ///< the last customer seen, from 1
  std::map<std::int64_t, std::uint32_t> price_seen_;
  ProductBuyers facts_;
};

}  // namespace

ProductBuyers buyers_of_product(const daybook::Daybook& daybook, std::uint32_t product) {
  return Gatherer(daybook, product).gather();
}

}  // namespace pear::lookup
