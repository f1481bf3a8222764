#include "worlds/world.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

#include <fmt/format.h>

#include "base/decimal.hpp"
#include "daybook/builder.hpp"
#include "daybook/columns/derived_columns.hpp"
#include "worlds/appeal.hpp"
#include "worlds/assortment.hpp"
#include "worlds/distributions.hpp"

namespace pear::worlds {
namespace {

constexpr std::int32_t kFirstDay = 18'628;  // 2021-01-01
constexpr double kRegularity = 4;           ///< shape of the gamma distribution of a consumable's cycles

/// Builds the lines of a world, customer by customer.
class Simulation {
 public:
  Simulation(const WorldOptions& options, std::uint64_t seed)
      : options_(options), random_(seed), assortment_(options, random_), appeal_(options, random_) {
    plant();
    for (int customer = 0; customer < options.customers; ++customer) make_customer(customer);
  }

  [[nodiscard]] World take() {
    add_columns();
    for (const auto& [product, pull] : pulls_)
      pulls_of_ids_[id(product)] = pull.margin / std::max(1, pull.baskets);
    World world{daybook::completed(std::move(daybook::build_daybook(std::move(table_))->daybook), {"margin"}),
                {},
                {},
                std::move(negotiated_),
                std::move(volume_),
                std::move(new_customers_),
                std::move(pulls_of_ids_),
                std::move(truth_),
                {}};
    for (int i = 0; i < options_.products; ++i)
      if (const int group = common_cause(i); group >= 0) world.common_cause[id(i)] = group;
    for (const auto& [first, second] : pairs_) world.pairs.emplace_back(id(first), id(second));
    for (const auto& [earlier, later] : sequels_) world.sequels.emplace_back(id(earlier), id(later));
    return world;
  }

 private:
  [[nodiscard]] static std::string id(int product) { return fmt::format("P{}", product + 1); }

  /// The segment to which a product appeals; all consumables are one group of their own.
  [[nodiscard]] int common_cause(int product) const {
    if (appeal_.is_given()) return 0;  // all products are bought by taste
    return assortment_[product].cycle > 0 ? options_.segments : assortment_[product].segment;
  }

  void plant() {
    for (int i = 0; i < options_.products; ++i) table_.product_ids.push_back(id(i));
    if (options_.has_freight) table_.product_ids.push_back("FREIGHT");
    // Planted products are neither the most popular ones nor rare, so that a shop can find them.
    for (int i = 0; i < options_.planted_pairs; ++i) pairs_.emplace(5 + 2 * i, 6 + 2 * i);
    for (int i = 0; i < options_.planted_sequels; ++i) {
      const int first = 5 + 2 * options_.planted_pairs + 2 * i;
      sequels_.emplace(first, first + 1);
    }
    for (int i = 0; i < options_.planted_pulls; ++i)
      pulls_.emplace(5 + 2 * options_.planted_pairs + 2 * options_.planted_sequels + i, Pull{});
  }

  void make_customer(int customer) {
    const std::string id = fmt::format("C{}", customer + 1);
    bought_.clear();
    due_.clear();
    used_up_.clear();
    const double gap = options_.mean_gap / gamma(random_, options_.rate_shape);
    const double dropout = options_.dropout > 0 ? beta(random_, 1, 1 / options_.dropout - 1) : 0;
    customer_size_ = options_.customer_size_shape
                         ? gamma(random_, *options_.customer_size_shape) / *options_.customer_size_shape
                         : 1;
    const double kind = random_.fraction();
    is_negotiated_ = kind < options_.negotiated;
    buys_volume_ = kind > 1 - options_.volume_customers;
    if (is_negotiated_) negotiated_.insert(id);
    if (buys_volume_) volume_.insert(id);
    if (appeal_.is_given()) appeal_.draw(random_);
    segment_ = options_.segments > 0 ? random_.whole(0, options_.segments - 1) : -1;
    const double span = options_.days + options_.days_before;
    double day = random_.fraction() * span - options_.days_before;
    if (day >= 0) new_customers_.insert(id);
    keep_truth(id);
    for (; day < options_.days; day += random_.waiting(gap)) {
      make_order(id, static_cast<int>(std::floor(day)));
      if (random_.chance(dropout)) break;
    }
  }

  /// How likely the customer is to choose each product in the last days, apart from what they bought before.
  void keep_truth(const std::string& id) {
    constexpr int kMostProducts = 5'000, kDays = 90, kStep = 10;
    const bool depends_on_purchases = !pairs_.empty() || !sequels_.empty() || options_.consumables > 0;
    if (depends_on_purchases || options_.has_cash_customer || options_.products > kMostProducts) return;
    std::vector<float>& own = truth_[id];
    for (int product = 0; product < options_.products; ++product) {
      double sum = 0;
      for (int day = options_.days - kDays; day < options_.days; day += kStep)
        sum += assortment_.probability_wanted(product, day, segment_);
      own.push_back(static_cast<float>(sum * assortment_[product].popularity *
                                       (appeal_.is_given() ? appeal_.of(product) : 1)));
    }
  }

  int size_of_basket() {
    const double more = (options_.mean_size - 1) * customer_size_;
    switch (options_.sizes) {
      case WorldOptions::Sizes::poisson:
        return 1 + poisson(random_, more);
      case WorldOptions::Sizes::geometric:
        return 1 + geometric(random_, more);
      case WorldOptions::Sizes::lognormal:
        break;
    }
    constexpr double kSigma = 0.9;
    return std::max(1, static_cast<int>(std::lround(
                           lognormal(random_, (more + 1) / std::exp(kSigma * kSigma / 2), kSigma))));
  }

  /// One choice: an earlier one of the customer's own, or a new one by popularity (the Polya urn of the
  /// Dirichlet distribution: Blackwell and MacQueen, Annals of Statistics 1, 1973).
  int choose() {
    if (options_.taste_precision) {
      const auto choices = static_cast<double>(bought_.size());
      if (random_.chance(choices / (choices + *options_.taste_precision)))
        return bought_[static_cast<std::size_t>(random_.whole(0, static_cast<int>(bought_.size()) - 1))];
    }
    return assortment_.choose(random_);
  }

  void make_order(const std::string& customer, int day) {
    std::vector<int> basket;
    const auto add = [&](int product) {
      if (std::find(basket.begin(), basket.end(), product) == basket.end()) basket.push_back(product);
    };
    const auto size = static_cast<std::size_t>(std::min(size_of_basket(), options_.products / 2));
    constexpr int kTries = 1'000;  // few products may be sold on this day
    for (int tries = 0; basket.size() < size && tries < kTries; ++tries) {
      const int product = choose();
      if (!assortment_.is_wanted(random_, product, day, segment_)) continue;
      if (appeal_.is_given() && !random_.chance(appeal_.of(product))) continue;
      if (options_.taste_precision) bought_.push_back(product);
      add(product);
    }
    for (auto& [product, from] : used_up_)
      if (from <= day && assortment_[product].is_sold(day)) add(product);
    for (const int product : basket)
      if (const double cycle = assortment_[product].cycle; cycle > 0)
        used_up_[product] = day + static_cast<int>(cycle * gamma(random_, kRegularity));
    for (std::size_t i = 0, own = basket.size(); i < own; ++i) {
      const auto partner = pairs_.find(basket[i]);
      if (partner != pairs_.end() && random_.chance(options_.pair_strength)) add(partner->second);
    }
    for (auto& [product, from] : due_)
      if (from <= day && std::exchange(from, options_.days) <= day) add(product);
    for (const int product : basket) {
      const auto sequel = sequels_.find(product);
      if (sequel != sequels_.end() && random_.chance(options_.sequel_strength))
        due_.emplace_back(sequel->second, day + static_cast<int>(lognormal(random_, 30, 0.5)));
    }
    write_order(customer, day, basket);
  }

  /// An order before the data begin leaves no line.
  void write_order(const std::string& id, int day, const std::vector<int>& basket) {
    if (day < 0) return;
    const auto order = static_cast<std::uint32_t>(table_.order_ids.size());
    table_.order_ids.push_back(fmt::format("A{}", order + 1));
    double share = random_.chance(options_.voucher_orders) ? 0.8 : 1;
    if (is_negotiated_) share *= 0.88;
    if (buys_volume_) share *= 0.85;
    if (options_.has_price_rise && day > options_.days / 2) share *= 1.1;
    if (options_.has_sale_weeks && day / 7 % 8 == 0) share *= 0.8;
    const std::uint32_t customer = code_of(options_.has_cash_customer && order % 3 == 0 ? "CASH" : id);
    const auto pulling =
        std::find_if(basket.begin(), basket.end(), [&](int product) { return pulls_.contains(product); });
    if (pulling != basket.end()) ++pulls_.at(*pulling).baskets;
    std::int64_t total = 0;
    for (const int product : basket) {
      int pieces = (1 + geometric(random_, 0.5 * customer_size_)) * (buys_volume_ ? 10 : 1);
      const double price = assortment_[product].price;
      if (pulling != basket.end() && product != *pulling && random_.chance(options_.pull_strength)) {
        ++pieces;
        pulls_.at(*pulling).margin += price - std::round(60 * price) / 100;
      }
      const std::int64_t cents = std::llround(100 * price * share) * pieces;
      total += cents;
      write_line({customer, order, product, day}, pieces, cents, std::llround(60 * price));
    }
    constexpr std::int64_t kFreeFrom = 5'000, kCharge = 495, kCost = 400;
    if (options_.has_freight && total < kFreeFrom)
      write_line({customer, order, options_.products, day}, 1, kCharge, kCost);
  }

  /// Of a customer with an order.
  std::uint32_t code_of(const std::string& id) {
    const auto [place, is_new] = codes_.try_emplace(id, static_cast<std::uint32_t>(codes_.size()));
    if (is_new) table_.customer_ids.push_back(id);
    return place->second;
  }

  struct Place {
    std::uint32_t customer, order;
    int product, day;
  };

  /// Amounts in cents, `unit_cost` per piece.
  void write_line(const Place& place, int pieces, std::int64_t amount, std::int64_t unit_cost) {
    table_.customer.push_back(place.customer);
    table_.order.push_back(place.order);
    table_.product.push_back(static_cast<std::uint32_t>(place.product));
    table_.days.push_back(kFirstDay + place.day);
    table_.is_return.push_back(0);
    kinds_.codes.push_back(static_cast<std::uint32_t>(appeal_.stated_kind()));
    fees_.flags.push_back(place.product == options_.products ? 1 : 0);
    quantities_.units.push_back(pieces * Decimal::kScale);
    amounts_.units.push_back(amount * (Decimal::kScale / 100));
    costs_.units.push_back(unit_cost * (Decimal::kScale / 100));
  }

  struct Pull {
    int baskets = 0;
    double margin = 0;  ///< that it brought
  };

  void add_columns() {
    const auto add = [&](std::string_view name, daybook::ColumnValues values) {
      table_.columns.push_back({{std::string(name), daybook::Level::line, std::move(values)}, {}});
    };
    add(daybook::role::kQuantity, std::move(quantities_));
    add(daybook::role::kAmount, std::move(amounts_));
    add(daybook::role::kUnitCost, std::move(costs_));
    if (options_.has_freight) add(daybook::role::kIsFee, std::move(fees_));
    if (options_.kinds == 0) return;
    for (int kind = 0; kind < options_.kinds; ++kind)
      kinds_.dictionary.push_back(fmt::format("K{}", kind + 1));
    table_.columns.push_back({{"kind", daybook::Level::line, std::move(kinds_)}, {daybook::Level::customer}});
  }

  const WorldOptions& options_;
  Random random_;
  Assortment assortment_;
  Appeal appeal_;
  std::map<int, int> pairs_, sequels_;
  std::map<int, Pull> pulls_;
  std::map<std::string, double> pulls_of_ids_;
  std::map<std::string, std::vector<float>> truth_;
  std::set<std::string> negotiated_, volume_, new_customers_;
  double customer_size_ = 1;  ///< of the present customer, like the next three
  int segment_ = -1;
  bool is_negotiated_ = false, buys_volume_ = false;
  std::vector<int> bought_;                     ///< choices of the present customer
  std::vector<std::pair<int, int>> due_;        ///< sequels of the present customer, and from which day
  std::map<int, int> used_up_;                  ///< consumables of the present customer, and from which day
  std::map<std::string, std::uint32_t> codes_;  ///< of customers
  daybook::LineTable table_;
  daybook::DecimalValues quantities_, amounts_, costs_;
  daybook::FlagValues fees_;
  daybook::TextValues kinds_;  ///< of the customers
};

}  // namespace

World simulate(const WorldOptions& options, std::uint64_t seed) { return Simulation(options, seed).take(); }

std::vector<WorldOptions> all_worlds() {
  using Sizes = WorldOptions::Sizes;
  std::vector<WorldOptions> worlds(1);
  worlds[0].name = "plain";
  const auto add = [&](std::string_view name, auto change) {
    WorldOptions world = worlds[0];
    world.name = name;
    change(world);
    worlds.push_back(world);
  };
  add("geometric sizes", [](WorldOptions& world) { world.sizes = Sizes::geometric, world.mean_size = 3; });
  add("lognormal sizes", [](WorldOptions& world) { world.sizes = Sizes::lognormal, world.mean_size = 4; });
  add("own tastes", [](WorldOptions& world) { world.taste_precision = 10; });
  add("own tastes, loyal", [](WorldOptions& world) {
    world.customers = 200, world.mean_gap = 30, world.taste_precision = 10, world.dropout = 0.01;
  });
  add("large customers", [](WorldOptions& world) {
    world.sizes = Sizes::geometric, world.mean_size = 3, world.customer_size_shape = 1.5;
  });
  add("one order each", [](WorldOptions& world) {
    world.customers = 2'000, world.mean_gap = 5'000, world.customer_size_shape = 1.5;
  });
  add("cash customer", [](WorldOptions& world) { world.has_cash_customer = true; });
  add("launches",
      [](WorldOptions& world) { world.customers = 2'000, world.launched = world.withdrawn = 0.2; });
  add("seasons", [](WorldOptions& world) { world.customers = 2'000, world.has_seasons = true; });
  add("vouchers", [](WorldOptions& world) { world.voucher_orders = 0.15; });
  add("price rise", [](WorldOptions& world) { world.has_price_rise = true; });
  add("sale weeks", [](WorldOptions& world) { world.has_sale_weeks = true; });
  add("negotiated prices", [](WorldOptions& world) {
    world.negotiated = world.volume_customers = 0.05, world.mean_gap = 60, world.has_sale_weeks = true;
  });
  add("ten days", [](WorldOptions& world) { world.days = 10, world.mean_gap = 20, world.customers = 2'000; });
  add("4,000 products",
      [](WorldOptions& world) { world.products = 4'000, world.zipf = 1, world.customers = 2'000; });
  add("40,000 products",
      [](WorldOptions& world) { world.products = 40'000, world.zipf = 1, world.customers = 2'000; });
  add("segments", [](WorldOptions& world) {
    world.customers = 1'000, world.segments = 4, world.taste_precision = 25, world.mean_gap = 90;
  });
  add("consumables", [](WorldOptions& world) { world.consumables = 10, world.mean_gap = 60; });
  add("freight", [](WorldOptions& world) { world.has_freight = true; });
  add("older than its data", [](WorldOptions& world) {
    world.customers = 2'000, world.days_before = 1'460, world.mean_gap = 60, world.dropout = 0.02;
  });
  add("planted", [](WorldOptions& world) {
    world.customers = 2'000, world.taste_precision = 25, world.sizes = Sizes::geometric;
    world.planted_pairs = world.planted_sequels = 5, world.planted_pulls = 1, world.mean_gap = 90;
  });
  add("hidden kinds", [](WorldOptions& world) {
    world.customers = 4'000, world.products = 400, world.kinds = 8, world.taste_precision = 50;
    world.mean_gap = 60, world.zipf = 0.8;
  });
  add("many tastes", [](WorldOptions& world) {
    world.customers = 4'000, world.products = 400, world.taste_dimensions = 10, world.consumables = 40;
    world.mean_gap = 60, world.zipf = 0.8, world.launched = 0.1, world.has_seasons = true;
  });
  return worlds;
}

}  // namespace pear::worlds
