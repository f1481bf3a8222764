#include "demo/shop.hpp"

#include <algorithm>
#include <array>
#include <bitset>
#include <cmath>
#include <numeric>

#include <fmt/format.h>

#include "demo/assortment.hpp"
#include "demo/customer_kinds.hpp"
#include "demo/random.hpp"
#include "demo/sequels.hpp"

namespace pear::demo {
namespace {

constexpr std::size_t kRegionCount = kRegions.size();

/// An order that a customer is going to place, and a product that it is placed for.
struct Plan {
  std::int32_t day = 0;
  std::int32_t wanted = -1;  // position in the assortment, or -1
};

/// Simulates the three years of one customer after another.
class ShopMaker {
 public:
  explicit ShopMaker(const ShopOptions& options)
      : options_(options), random_(options.seed), of_variants_(options.seed + 1) {
    shop_.products = options.products;
  }

  Shop make() {
    while (shop_.lines.size() < options_.lines) live(next_customer());
    cut_to_size();
    number_by_date();
    return std::move(shop_);
  }

 private:
  std::uint32_t next_customer() {
    Customer customer;
    customer.kind = static_cast<std::uint8_t>(pick_kind());
    customer.region = static_cast<std::uint8_t>(random_.whole(0, kRegionCount - 1));
    shop_.customers.push_back(customer);
    kind_ = &kKinds[customer.kind];
    quiet_discount_ = !kind_->trade && random_.chance(0.03);
    return static_cast<std::uint32_t>(shop_.customers.size() - 1);
  }

  std::size_t pick_kind() {
    double rest = random_.fraction();
    for (std::size_t i = 0; i + 1 < kKinds.size(); ++i) {
      rest -= kKinds[i].share;
      if (rest < 0) return i;
    }
    return kKinds.size() - 1;
  }

  /// Autumn has twice the orders of a summer month: a day elsewhere is often moved there.
  std::int32_t seasonal_day(double day) {
    auto whole = static_cast<std::int32_t>(day);
    const std::int32_t day_of_year = whole % 365;
    constexpr std::int32_t kSeptember = 243;
    if (day_of_year < kSeptember && day_of_year > 120 && random_.chance(0.3))
      whole += kSeptember - day_of_year + random_.whole(0, 80);
    return whole;
  }

  void live(std::uint32_t customer) {
    plans_.clear();
    owned_.reset();
    plans_.push_back({seasonal_day(random_.fraction() * kDays), entry_product()});
    double coming_back = kind_->coming_back;
    if (plans_.front().wanted == static_cast<std::int32_t>(kStarterKit)) coming_back += 0.12;
    if (plans_.front().wanted == static_cast<std::int32_t>(kGiftBox)) coming_back -= 0.38;
    for (std::size_t next = 0; next < plans_.size(); ++next) {
      std::stable_sort(plans_.begin() + static_cast<std::ptrdiff_t>(next), plans_.end(),
                       [](const Plan& a, const Plan& b) { return a.day < b.day; });
      const Plan plan = plans_[next];
      if (plan.day >= kDays) return;
      place_order(customer, plan);
      plan_sequels(plan.day);
      const bool last_of_plans = next + 1 == plans_.size();
      if (last_of_plans && random_.chance(coming_back))
        plans_.push_back({seasonal_day(plan.day + 3 + random_.waiting(kind_->gap_days)), -1});
    }
  }

  std::int32_t entry_product() {
    if (kind_->trade) return -1;
    if (kind_->spins && random_.chance(0.45)) return kWheel;
    const double chance = random_.fraction();
    if (chance < 0.16) return kStarterKit;
    return chance < 0.24 ? static_cast<std::int32_t>(kGiftBox) : -1;
  }

  /// What the order just placed makes the customer want next, and when.
  void plan_sequels(std::int32_t day) {
    const auto later = [&](double middle, double spread, std::uint32_t product) {
      plans_.push_back({day + static_cast<std::int32_t>(random_.about(middle, spread)),
                        static_cast<std::int32_t>(product)});
    };
    for (const std::uint32_t product : basket_) {
      owned_.set(product);
      for (const Sequel& sequel : kSequels)
        if (sequel.after == product && !owned_[sequel.next] && random_.chance(sequel.probability))
          later(sequel.days, sequel.spread, sequel.next);
      if (product == kStarterKit && random_.chance(0.6))
        later(28, 8, pick(random_.chance(0.5) ? kSockYarn : kWoolYarn));
    }
  }

  /// The first products of a category sell better than the last.
  std::uint32_t pick(Shelf shelf) {
    const double place = random_.fraction() * random_.fraction();
    return shelf.begin + static_cast<std::uint32_t>(place * static_cast<double>(shelf.end - shelf.begin));
  }

  /// A category that customers of this kind like.
  Shelf pick_shelf() { return kind_->shelves[static_cast<std::size_t>(random_.whole(0, 3))]; }

  void place_order(std::uint32_t customer, const Plan& plan) {
    basket_.clear();
    put(plan.wanted >= 0 ? static_cast<std::uint32_t>(plan.wanted) : pick(pick_shelf()));
    const int more =
        plan.wanted == static_cast<std::int32_t>(kGiftBox) ? 0 : random_.whole(0, kind_->trade ? 6 : 4);
    for (int i = 0; i < more; ++i) put(pick(pick_shelf()));
    put_companions();
    Order order{customer,
                {kFirstDay.days + plan.day},
                shop_.lines.size(),
                0,
                random_.chance(kind_->trade ? 0.5 : 0.2)};
    for (const std::uint32_t product : basket_) {
      const std::int32_t quantity = quantity_of(product);
      shop_.lines.push_back({product, quantity, price(product, quantity), variant_of(customer, product)});
    }
    order.line_count = static_cast<std::uint32_t>(basket_.size());
    shop_.orders.push_back(order);
    if (random_.chance(0.008)) send_back(order);
  }

  /// One product of the order is returned, as an order of its own.
  void send_back(const Order& order) {
    const std::int32_t day = order.date.days - kFirstDay.days + random_.whole(5, 25);
    if (day >= kDays) return;
    const SaleLine& line = shop_.lines[order.first_line];
    shop_.orders.push_back(
        {order.customer, {kFirstDay.days + day}, shop_.lines.size(), 1, order.by_telephone});
    shop_.lines.push_back({line.product, -line.quantity, line.unit_price, line.variant});
  }

  /// In half of the cases the customer's own variant. The variants have random numbers of their own, so that
  /// the rest of the shop is the same with and without them.
  std::uint32_t variant_of(std::uint32_t customer, std::uint32_t product) {
    const std::uint32_t variants = shop_.variants(product);
    if (variants == 1) return 0;
    const double place = of_variants_.chance(0.5) ? hashed_fraction(std::uint64_t{customer} * 1'000 + product)
                                                  : of_variants_.fraction();
    return std::min(variants - 1, static_cast<std::uint32_t>(std::pow(variants + 1.0, place) - 1));
  }

  void put(std::uint32_t product) {
    if (std::find(basket_.begin(), basket_.end(), product) == basket_.end()) basket_.push_back(product);
  }

  /// Products that go with what is in the basket already.
  void put_companions() {
    const auto in = [](Shelf shelf, std::uint32_t product) {
      return product >= shelf.begin && product < shelf.end;
    };
    const auto any = [&](Shelf shelf) {
      return std::any_of(basket_.begin(), basket_.end(),
                         [&](std::uint32_t product) { return in(shelf, product); });
    };
    if (any(kSockYarn) && random_.chance(0.42)) put(kSockNeedles);
    if (any({kFirstDye, kMordant}) && random_.chance(0.6)) put(kMordant);
    std::int64_t worth = 0;
    for (const std::uint32_t product : basket_) worth += assortment()[product].list_price;
    if (random_.chance(worth > 5000 ? 0.3 : 0.02)) put(kDarningCard);
    if (random_.chance(0.0015)) put(kUnlisted);
  }

  std::int32_t quantity_of(std::uint32_t product) {
    if (product == kWheel || product == kDarningCard || product == kGiftBox || product == kStarterKit)
      return kind_->trade ? random_.whole(1, 4) : 1;
    if (kind_->trade) return random_.whole(3, 30);
    const bool yarn = product < kCottonYarn.end;
    return random_.whole(1, yarn ? 6 : 2);
  }

  /// List price minus the volume discount, or minus 12% for the few who get it without a reason; whole cents.
  std::int64_t price(std::uint32_t product, std::int32_t quantity) {
    int per_cent = 100;
    if (kind_->trade) per_cent = quantity >= 24 ? 80 : quantity >= 12 ? 87 : quantity >= 6 ? 93 : 97;
    if (quiet_discount_) per_cent = 88;
    if (random_.chance(0.04)) per_cent = std::min(per_cent, 90);
    return (assortment()[product].list_price * per_cent + 50) / 100;
  }

  /// Drops the lines beyond the requested number; the last customer has a few less then.
  void cut_to_size() {
    std::uint64_t surplus = shop_.lines.size() - options_.lines;
    while (surplus > 0) {
      Order& order = shop_.orders.back();
      const auto cut = static_cast<std::uint32_t>(std::min<std::uint64_t>(surplus, order.line_count));
      order.line_count -= cut;
      surplus -= cut;
      if (order.line_count == 0) shop_.orders.pop_back();
    }
    shop_.lines.resize(options_.lines);
  }

  void number_by_date() {
    std::stable_sort(shop_.orders.begin(), shop_.orders.end(),
                     [](const Order& a, const Order& b) { return a.date < b.date; });
  }

  static constexpr std::int32_t kDays = 1094;
  static inline const Date kFirstDay = date_of(2023, 1, 2);

  ShopOptions options_;
  Random random_, of_variants_;
  Shop shop_;
  const CustomerKind* kind_ = nullptr;
  bool quiet_discount_ = false;
  std::vector<Plan> plans_;
  std::vector<std::uint32_t> basket_;
  std::bitset<kUnlisted + 1> owned_;  ///< what the current customer has bought
};

}  // namespace

std::string product_id(std::uint32_t product, std::uint32_t variant) {
  return variant == 0 ? fmt::format("P{}", product + 1) : fmt::format("P{}-{}", product + 1, variant + 1);
}

std::string product_name(std::uint32_t product, std::uint32_t variant) {
  const std::string_view name = assortment()[product].name;
  return variant == 0 ? std::string(name) : fmt::format("{} no. {}", name, variant + 1);
}

Shop make_shop(const ShopOptions& options) { return ShopMaker(options).make(); }

}  // namespace pear::demo
