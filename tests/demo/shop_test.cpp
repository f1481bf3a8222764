// The made-up shop matches its documentation, at any size.
#include "demo/shop.hpp"

#include <algorithm>
#include <map>
#include <set>

#include <gtest/gtest.h>

#include "demo/assortment.hpp"
#include "demo/customer_kinds.hpp"
#include "demo/sales_file.hpp"
#include "demo/sequels.hpp"

namespace pear::demo {
namespace {

std::string sales_of(const Shop& shop) {
  std::string text;
  EXPECT_TRUE(write_sales(shop, [&](std::string_view part) -> OrError<void> {
    text += part;
    return {};
  }));
  return text;
}

/// A larger shop, so that the planted structure is clear, and helpers to query it.
class PlantedStructure : public testing::Test {
 protected:
  PlantedStructure() : shop_(make_shop({160'000, 3})) {
    for (const Order& order : shop_.orders) histories_[order.customer].push_back(&order);
  }
  [[nodiscard]] std::set<std::uint32_t> basket(const Order& order) const {
    std::set<std::uint32_t> products;
    for (std::uint64_t line = order.first_line; line < order.first_line + order.line_count; ++line)
      products.insert(shop_.lines[line].product);
    return products;
  }
  [[nodiscard]] bool any_of(const Order& order, Shelf shelf) const {
    const auto products = basket(order);
    return std::any_of(products.begin(), products.end(),
                       [&](std::uint32_t product) { return product >= shelf.begin && product < shelf.end; });
  }
  [[nodiscard]] bool has(const Order& order, std::uint32_t product) const {
    return any_of(order, {product, product + 1});
  }
  [[nodiscard]] bool trade(const Order& order) const {
    return kKinds.at(shop_.customers[order.customer].kind).trade;
  }
  /// Share of the orders with one of the category that also contain the product, compared with its share of
  /// all orders.
  [[nodiscard]] double lift(Shelf shelf, std::uint32_t product) const {
    double with_shelf = 0, with_both = 0, with_product = 0;
    for (const Order& order : shop_.orders) {
      with_shelf += any_of(order, shelf) ? 1 : 0;
      with_product += has(order, product) ? 1 : 0;
      with_both += any_of(order, shelf) && has(order, product) ? 1 : 0;
    }
    return with_both / with_shelf / (with_product / static_cast<double>(shop_.orders.size()));
  }
  /// The median days from the first order with one product to the next with another.
  [[nodiscard]] std::int32_t gap(std::uint32_t earlier, std::uint32_t later) const {
    std::vector<std::int32_t> gaps;
    for (const auto& [customer, orders] : histories_) {
      const Order* first = nullptr;
      for (const Order* order : orders) {
        if (first == nullptr && has(*order, earlier)) {
          first = order;
        } else if (first != nullptr && has(*order, later)) {
          gaps.push_back(days_between(first->date, order->date));
          break;
        }
      }
    }
    EXPECT_GT(gaps.size(), 50U);
    std::nth_element(gaps.begin(), gaps.begin() + static_cast<std::ptrdiff_t>(gaps.size() / 2), gaps.end());
    return gaps[gaps.size() / 2];
  }
  /// Of customers whose first order contains the product, the share with a second order.
  [[nodiscard]] double ordered_again(std::uint32_t product) const {
    double began = 0, again = 0;
    for (const auto& [customer, orders] : histories_) {
      if (!has(*orders.front(), product)) continue;
      began += 1;
      again += orders.size() > 1 ? 1 : 0;
    }
    return again / began;
  }

  Shop shop_;
  std::map<std::uint32_t, std::vector<const Order*>> histories_;
};

TEST(Shop, HasExactlyTheRequestedLinesAndIsReproducible) {
  for (const std::uint64_t lines : {1U, 7U, 16'000U}) {
    const Shop shop = make_shop({lines, 5});
    EXPECT_EQ(shop.lines.size(), lines);
    std::uint64_t in_orders = 0;
    for (const Order& order : shop.orders) in_orders += order.line_count;
    EXPECT_EQ(in_orders, lines);
    EXPECT_EQ(sales_of(shop), sales_of(make_shop({lines, 5})));
  }
  EXPECT_NE(sales_of(make_shop({100, 5})), sales_of(make_shop({100, 6})));
}

TEST(Shop, HasTheDocumentedSize) {
  const Shop shop = make_shop({});
  std::set<std::uint32_t> customers, products;
  for (const Order& order : shop.orders) customers.insert(order.customer);
  for (const SaleLine& line : shop.lines) products.insert(line.product);
  EXPECT_NEAR(static_cast<double>(customers.size()), 1200, 120);
  EXPECT_NEAR(static_cast<double>(shop.orders.size()), 5000, 300);
  EXPECT_EQ(products.size(), 91U) << "one of them on no list";
}

TEST(Shop, VariantsChangeNothingElse) {
  const Shop plain = make_shop({20'000, 5});
  const Shop shop = make_shop({20'000, 5, 1'000});
  ASSERT_EQ(shop.lines.size(), plain.lines.size());
  std::map<std::uint32_t, int> by_variant;
  for (std::size_t i = 0; i < shop.lines.size(); ++i) {
    const SaleLine& line = shop.lines[i];
    ASSERT_EQ(line.product, plain.lines[i].product);
    ASSERT_EQ(line.quantity, plain.lines[i].quantity);
    ASSERT_EQ(plain.lines[i].variant, 0U);
    ASSERT_LT(line.variant, shop.variants(line.product));
    ++by_variant[line.variant];
  }
  std::uint32_t listed = 0;
  for (std::uint32_t product = 0; product < kListedProducts; ++product) listed += shop.variants(product);
  EXPECT_EQ(listed, 1'000U);
  EXPECT_GT(by_variant[0], by_variant[1]);
  EXPECT_GT(by_variant[1], by_variant[5]);
  EXPECT_GT(by_variant[9], 0);
}

TEST_F(PlantedStructure, CompanionsAreBoughtTogether) {
  EXPECT_GT(lift(kSockYarn, kSockNeedles), 1.5);
  EXPECT_GT(lift({kFirstDye, kMordant}, kMordant), 2.0);
}

TEST_F(PlantedStructure, ProductsFollowOneAnotherAfterTheirUsualTime) {
  for (const Sequel& sequel : kSequels)
    EXPECT_NEAR(gap(sequel.after, sequel.next), sequel.days, 12) << sequel.after << " to " << sequel.next;
}

TEST_F(PlantedStructure, EntryProductsDifferInRepeatRate) {
  EXPECT_GT(ordered_again(kStarterKit), ordered_again(kGiftBox) + 0.2);
}

TEST_F(PlantedStructure, TheDarningCardHasNoMarginAndIsInExpensiveBaskets) {
  EXPECT_LT(assortment()[kDarningCard].list_price - assortment()[kDarningCard].unit_cost, 10);
  std::array<std::int64_t, 2> worth{};
  std::array<std::int64_t, 2> orders{};
  for (const Order& order : shop_.orders) {
    if (trade(order)) continue;
    const std::size_t with_card = has(order, kDarningCard) ? 1 : 0;
    for (const std::uint32_t product : basket(order)) worth.at(with_card) += assortment()[product].list_price;
    ++orders.at(with_card);
  }
  EXPECT_GT(worth[1] / orders[1], 2 * (worth[0] / orders[0]));
}

TEST_F(PlantedStructure, TradeCustomersPayLessForVolumeAndAFewPrivateOnesWithoutAReason) {
  std::map<std::uint32_t, std::pair<int, int>>
      discounted;  // private customers: lines below 90% of list, and all
  double little = 0, little_lines = 0, much = 0, much_lines = 0;
  for (const Order& order : shop_.orders) {
    for (std::uint64_t at = order.first_line; at < order.first_line + order.line_count; ++at) {
      const SaleLine& line = shop_.lines[at];
      const double paid =
          static_cast<double>(line.unit_price) / static_cast<double>(assortment()[line.product].list_price);
      if (!trade(order)) {
        discounted[order.customer].first += paid < 0.895 ? 1 : 0;
        ++discounted[order.customer].second;
      } else if (line.quantity < 6) {
        little += paid;
        ++little_lines;
      } else if (line.quantity >= 24) {
        much += paid;
        ++much_lines;
      }
    }
  }
  EXPECT_GT(little / little_lines, much / much_lines + 0.1);
  const auto quiet = std::count_if(discounted.begin(), discounted.end(),
                                   [](const auto& each) { return each.second.first == each.second.second; });
  EXPECT_NEAR(static_cast<double>(quiet) / static_cast<double>(discounted.size()), 0.03, 0.012);
}

TEST_F(PlantedStructure, AutumnIsTheHighSeason) {
  std::array<int, 12> orders{};
  for (const Order& order : shop_.orders)
    ++orders.at(static_cast<std::size_t>(month_of(order.date).index % 12));
  EXPECT_GT(orders[8] + orders[9] + orders[10], 1.4 * (orders[5] + orders[6] + orders[7]));
}

}  // namespace
}  // namespace pear::demo
