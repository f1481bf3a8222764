// Baskets and histories gathered from a daybook, compared with slow twins.
#include "mining/baskets.hpp"

#include <algorithm>
#include <map>
#include <set>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "analysis/tables/member_column.hpp"
#include "daybook/walk_lines.hpp"
#include "mining/min_support.hpp"
#include "mining/purchase_histories.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// The products that a customer bought, and for how much, by order; orders without a purchase are left out.
struct BoughtOrder {
  std::uint32_t order = 0;
  std::int32_t day = 0;
  std::map<std::uint32_t, std::int64_t> products;
};

std::vector<std::vector<BoughtOrder>> bought_orders(const daybook::Daybook& daybook) {
  std::vector<std::vector<BoughtOrder>> all(daybook.customers());
  const daybook::Purchases purchases(daybook);
  daybook::walk_lines(daybook, {0, daybook.customers()}, [&](const daybook::LinePlace& place) {
    if (!purchases.is_of_product(place.line)) return;
    auto& own = all[place.customer];
    if (own.empty() || own.back().order != place.order)
      own.push_back({place.order, daybook.order_days()[place.order], {}});
    own.back().products[place.product] += daybook.amounts()[place.line];
  });
  return all;
}

mining::BasketRule random_rule() {
  using Within = mining::BasketRule::Within;
  return {static_cast<Within>(pick(0, 3)), pick(0, 40)};
}

bool joins(const mining::BasketRule& rule, std::int32_t last, std::int32_t next) {
  using Within = mining::BasketRule::Within;
  return rule.within == Within::customer || (rule.within == Within::day && last == next) ||
         (rule.within == Within::days && next - last <= rule.days);
}

RC_GTEST_PROP(Baskets, ContainWhatIsBoughtTogether, ()) {
  const daybook::Daybook daybook = build(random_sales(true)).daybook;
  const auto key = analysis::id_key(daybook, daybook::Level::product);
  const mining::BasketRule rule = random_rule();
  const mining::BasketWalker walker(daybook, key, rule);
  const mining::Baskets baskets = mining::gather_baskets(daybook, key, rule);
  std::size_t next = 0;
  std::map<std::uint32_t, std::uint32_t> counts, single_item;
  const auto all = bought_orders(daybook);
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    std::vector<BoughtOrder> wanted;  // each basket as one order
    std::int32_t last = 0;
    for (const BoughtOrder& order : all[customer]) {
      if (wanted.empty() || !joins(rule, last, order.day)) wanted.push_back({order.order, order.day, {}});
      for (const auto& [product, amount] : order.products) wanted.back().products[product] += amount;
      last = order.day;
    }
    std::vector<mining::BasketItem> items;
    std::size_t walked = 0;
    walker.walk(customer, items, [&](std::span<const mining::BasketItem> basket, Date day) {
      RC_ASSERT(walked < wanted.size());
      const BoughtOrder& own = wanted[walked++];
      RC_ASSERT(day.days == own.day && basket.size() == own.products.size());
      RC_ASSERT(std::equal(basket.begin(), basket.end(), own.products.begin(),
                           [](const mining::BasketItem& item, const auto& product) {
                             return item.code == product.first && item.amount == product.second;
                           }));
      RC_ASSERT(next < baskets.size() && baskets.customers[next] == customer);
      RC_ASSERT(baskets.days[next] == own.day && baskets.of(next).size() == own.products.size());
      for (const std::uint32_t code : baskets.of(next)) ++counts[code];
      if (own.products.size() == 1) ++single_item[own.products.begin()->first];
      ++next;
    });
    RC_ASSERT(walked == wanted.size());
  }
  RC_ASSERT(next == baskets.size());
  for (std::uint32_t product = 0; product < daybook.products(); ++product) {
    RC_ASSERT(baskets.counts[product] == counts[product]);
    RC_ASSERT(baskets.single_item[product] == single_item[product]);
  }
  const Date until{daybook.order_days()[0]};
  const mining::Baskets early = mining::gather_baskets(daybook, key, rule, until);
  RC_ASSERT(static_cast<std::ptrdiff_t>(early.size()) ==
            std::count_if(baskets.days.begin(), baskets.days.end(),
                          [&](std::int32_t day) { return day <= until.days; }));
}

TEST(BasketRule, IsReadAndDescribed) {
  const auto described = [](std::string_view text) {
    const auto rule = mining::parse_basket_rule(text);
    return rule ? mining::describe_baskets(*rule) : rule.error().message;
  };
  EXPECT_EQ(described("order"), "orders");
  EXPECT_EQ(described("day"), "days of a customer");
  EXPECT_EQ(described("customer"), "customers");
  EXPECT_EQ(described("14"), "runs of orders with gaps of at most 14 days");
  EXPECT_EQ(described("2 weeks"), "runs of orders with gaps of at most 14 days");
  EXPECT_EQ(described("1 day"), "runs of orders with gaps of at most 1 day");
  EXPECT_EQ(
      described("visit"),
      "--basket takes order, day, customer, or a length of time such as 14, \"14 days\" or \"2 weeks\", "
      "not \"visit\".");
}

TEST(MinSupport, IsAShareOrANumber) {
  const auto of = [](std::string_view text, std::size_t all) {
    return mining::parse_support(text, "basket").value().of(all);
  };
  EXPECT_EQ(of("1%", 1'000), 10U);
  EXPECT_EQ(of("0.01", 1'001), 11U);  // at least this share
  EXPECT_EQ(of("0.01", 1'000), 10U);  // though 0.01 has no exact binary form
  EXPECT_EQ(of("1%", 3), 1U);         // never none
  EXPECT_EQ(of("25 baskets", 10), 25U);
  EXPECT_EQ(of("1 basket", 10), 1U);
  for (const std::string_view wrong : {"25", "0 baskets", "2.5 baskets", "101%", "-1%", "often", " baskets"})
    EXPECT_FALSE(mining::parse_support(wrong, "basket").has_value()) << wrong;
}

/// Each customer's purchases by order, with what is known of each.
RC_GTEST_PROP(PurchaseHistories, AreTheOrdersOfEachCustomer, ()) {
  const daybook::Daybook daybook = build(random_sales(true)).daybook;
  const auto key = analysis::id_key(daybook, daybook::Level::product);
  mining::SequenceRule rule;
  rule.min_gap = pick(0, 5);
  if (pick(0, 1) == 1) rule.max_gap = rule.min_gap + pick(0, 40);
  if (pick(0, 2) == 0) rule.span = pick(1, 60);
  rule.repeats = pick(0, 1) == 0 ? mining::Repeats::first : mining::Repeats::all;
  const mining::Histories histories = mining::gather_histories(daybook, key, rule);
  std::map<std::uint32_t, std::set<std::uint32_t>> buyers, after_any, later;
  std::uint32_t with_purchases = 0;
  std::int64_t first_days = 0;
  const auto all = bought_orders(daybook);
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    const auto history = histories.of(customer);
    std::size_t read = 0;
    const auto& orders = all[customer];
    for (std::size_t i = 0; i < orders.size(); ++i) {
      const bool follows = std::any_of(orders.begin(), orders.begin() + static_cast<std::ptrdiff_t>(i),
                                       [&](const BoughtOrder& before) {
                                         const int days = orders[i].day - before.day;
                                         return days >= rule.min_gap && days <= rule.longest_gap();
                                       });
      for (const auto& [product, amount] : orders[i].products) {
        const bool is_first = buyers[product].insert(customer).second;
        if (follows && (is_first || rule.repeats == mining::Repeats::all))
          after_any[product].insert(customer);
        if (orders[i].day > orders.front().day && (is_first || rule.repeats == mining::Repeats::all))
          later[product].insert(customer);
        if (!is_first && rule.repeats == mining::Repeats::first) continue;
        RC_ASSERT(read < history.size());
        const mining::HistoryEntry& entry = history[read];
        RC_ASSERT(entry.code == product && entry.day == orders[i].day);
        RC_ASSERT((entry.is_first != 0) == is_first && (entry.follows != 0) == follows);
        RC_ASSERT((entry.begins != 0) == (read == 0));
        ++read;
      }
    }
    RC_ASSERT(read == history.size());
    with_purchases += orders.empty() ? 0U : 1U;
    first_days += orders.empty() ? 0 : orders.front().day;
  }
  RC_ASSERT(histories.buyers == with_purchases && histories.first_days == first_days);
  for (std::uint32_t product = 0; product < daybook.products(); ++product) {
    RC_ASSERT(histories.counts[product] == buyers[product].size());
    RC_ASSERT(histories.after_any[product] == after_any[product].size());
    RC_ASSERT(histories.later[product] == later[product].size());
  }
}

RC_GTEST_PROP(PurchaseHistories, AreIndexedAndLoseRareItems, ()) {
  const daybook::Daybook daybook = build(random_sales()).daybook;
  mining::SequenceRule rule;
  rule.repeats = mining::Repeats::all;
  const mining::Histories all =
      mining::gather_histories(daybook, analysis::id_key(daybook, daybook::Level::product), rule);
  mining::Histories common = all;
  const auto least = static_cast<std::uint32_t>(pick(0, 4));
  mining::drop_rare(common, least);
  RC_ASSERT(common.customers() == all.customers() && common.counts == all.counts);
  for (std::uint32_t customer = 0; customer < all.customers(); ++customer) {
    std::size_t read = 0;
    for (const mining::HistoryEntry& entry : all.of(customer)) {
      if (all.counts[entry.code] < least) continue;
      RC_ASSERT(read < common.of(customer).size());
      const mining::HistoryEntry& kept = common.of(customer)[read];
      RC_ASSERT(kept.code == entry.code && kept.day == entry.day && (kept.begins != 0) == (read == 0));
      ++read;
    }
    RC_ASSERT(read == common.of(customer).size());
  }
  const mining::HistoryIndex index(common);
  std::size_t places = 0;
  for (std::uint32_t code = 0; code < common.counts.size(); ++code) {
    std::uint32_t before = 0;
    for (const mining::HistoryIndex::Place& place : index.of(code)) {
      RC_ASSERT(common.entries[place.entry].code == code);
      RC_ASSERT(place.entry >= before);
      RC_ASSERT(std::binary_search(common.begins.begin(), common.begins.end(), place.end));
      const auto around = common.around(place.entry, place.end);
      RC_ASSERT(around.front().begins == 1 && &around.back() == &common.entries[place.end - 1]);
      before = place.entry + 1;
      ++places;
    }
  }
  RC_ASSERT(places == common.entries.size());
}

}  // namespace
}  // namespace pear::test
