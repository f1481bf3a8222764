// The pull of items, compared with a slow twin, and the factors of the model of basket values.
#include "questions/baskets/pull.hpp"

#include <cmath>
#include <numeric>
#include <set>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "questions/baskets/expected_value.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

using baskets::ExpectedValue;
using baskets::Pull;
using baskets::ValuedBaskets;

constexpr std::uint32_t kItems = 6;

void add_basket(ValuedBaskets& baskets, std::uint32_t customer, int month,
                const std::vector<std::pair<std::uint32_t, std::int64_t>>& items) {
  baskets.customers.push_back(customer);
  baskets.months.push_back(static_cast<std::uint16_t>(month));
  for (const auto& [code, value] : items) {
    baskets.codes.push_back(code);
    baskets.values.push_back(value);
  }
  baskets.begins.push_back(static_cast<std::uint32_t>(baskets.codes.size()));
}

/// Few sizes and months, so that some baskets of other customers are alike.
ValuedBaskets random_baskets() {
  ValuedBaskets baskets;
  const int customers = pick(1, 30);
  for (int customer = 0; customer < customers; ++customer) {
    for (int basket = pick(1, 4); basket > 0; --basket) {
      std::vector<std::pair<std::uint32_t, std::int64_t>> items;
      for (std::uint32_t code = 0; code < kItems; ++code)
        if (pick(0, 2) == 0) items.emplace_back(code, pick(0, 20) == 0 ? -500 : pick(100, 9'000));
      if (!items.empty()) add_basket(baskets, static_cast<std::uint32_t>(customer), pick(0, 1), items);
    }
  }
  return baskets;
}

struct SlowPull {
  double sum = 0, weight = 0;
  std::set<std::uint32_t> customers;
};

/// By the definition, looking at all baskets again for each basket.
SlowPull slow_pull(const ValuedBaskets& all, std::uint32_t code) {
  const ExpectedValue model(all);
  const auto position = [&](std::size_t basket) {
    const auto begin = all.codes.begin() + all.begins[basket],
               end = all.codes.begin() + all.begins[basket + 1];
    const auto found = std::find(begin, end, code);
    return found == end ? std::optional<std::size_t>() : static_cast<std::size_t>(found - all.codes.begin());
  };
  const auto value = [&](std::size_t basket) {
    return static_cast<double>(std::accumulate(all.values.begin() + all.begins[basket],
                                               all.values.begin() + all.begins[basket + 1], std::int64_t{0}));
  };
  SlowPull pull;
  for (std::size_t basket = 0; basket < all.size(); ++basket) {
    if (!position(basket)) continue;
    double others = 0, expected_others = 0, other_items = 0, rest_items = 0;
    for (std::size_t other = 0; other < all.size(); ++other) {
      if (all.customers[other] != all.customers[basket]) continue;
      const double items = all.size_of(other);
      if (position(other)) {
        rest_items += items - 1;
      } else {
        others += value(other);
        other_items += items;
        expected_others += items * model.of_item(other);
      }
    }
    const double rest = value(basket) - static_cast<double>(all.values[*position(basket)]);
    const double items = all.size_of(basket);
    if (other_items > 0 && other_items >= rest_items) {
      pull.sum += rest - (items - 1) * model.of_item(basket) / expected_others * others;
    } else if (items > 1) {
      double of_month = 0, of_any = 0, months = 0, any = 0;
      for (std::size_t other = 0; other < all.size(); ++other) {
        if (position(other) || all.size_of(other) != all.size_of(basket)) continue;
        of_any += value(other), ++any;
        if (all.months[other] == all.months[basket]) of_month += value(other), ++months;
      }
      if (any < 5) continue;
      pull.sum += rest - (items - 1) / items * (months < 5 ? of_any / any : of_month / months);
    }
    ++pull.weight;
    pull.customers.insert(all.customers[basket]);
  }
  return pull;
}

RC_GTEST_PROP(Pull, EqualsTheSlowTwin, ()) {
  const ValuedBaskets all = random_baskets();
  const std::vector<std::optional<Pull>> pulls = find_pulls(all, kItems);
  for (std::uint32_t code = 0; code < kItems; ++code) {
    const SlowPull slow = slow_pull(all, code);
    RC_ASSERT(pulls[code].has_value() == (slow.weight > 0));
    if (!pulls[code]) continue;
    RC_ASSERT(std::abs(pulls[code]->pull - slow.sum / slow.weight) < 1e-6 * (1 + std::abs(slow.sum)));
    RC_ASSERT(std::isnan(pulls[code]->low) || slow.customers.size() > 1);
    if (std::isnan(pulls[code]->low)) continue;
    RC_ASSERT(pulls[code]->low <= pulls[code]->pull && pulls[code]->pull <= pulls[code]->high);
    RC_ASSERT(pulls[code]->p_value >= 0 && pulls[code]->p_value <= 1);
  }
}

RC_GTEST_PROP(Pull, DoesNotDependOnTheUnitOfMoney, ()) {
  ValuedBaskets all = random_baskets();
  const auto before = find_pulls(all, kItems);
  for (std::int64_t& value : all.values) value *= 100;
  const auto after = find_pulls(all, kItems);
  for (std::uint32_t code = 0; code < kItems; ++code) {
    if (!before[code]) continue;
    RC_ASSERT(std::abs(after[code]->pull - 100 * before[code]->pull) <
              1e-4 * (1 + std::abs(after[code]->pull)));
    RC_ASSERT(std::abs(after[code]->p_value - before[code]->p_value) < 1e-4);
  }
}

TEST(ExpectedValue, RecoversTheFactorsOfSizesAndMonths) {
  const std::vector<double> by_size = {0, 2, 1, 1, 0.5}, by_month = {1, 1.2, 0.8};
  ValuedBaskets all;
  for (std::uint32_t customer = 0; customer < 3'000; ++customer) {
    const double level = 1'000 * (1 + customer % 5);  // of large customers, who buy large baskets
    for (int basket = 0; basket < 3; ++basket) {
      const std::size_t size = 1 + (customer + static_cast<unsigned>(basket) + customer % 5 / 3) % 4;
      const auto month = static_cast<std::size_t>(customer / 4 + static_cast<unsigned>(basket)) % 3;
      std::vector<std::pair<std::uint32_t, std::int64_t>> items;
      for (std::uint32_t item = 0; item < size; ++item)
        items.emplace_back(item, std::llround(level * by_size[size] * by_month[month]));
      add_basket(all, customer, static_cast<int>(month), items);
    }
  }
  const ExpectedValue model(all);
  double one = 0;
  for (std::size_t basket = 0; basket < all.size(); ++basket) {
    const double factor =
        model.of_item(basket) / (by_size[all.size_of(basket)] * by_month[all.months[basket]]);
    if (basket == 0) one = factor;  // only ratios of factors have a meaning
    EXPECT_NEAR(factor / one, 1, 0.05);
  }
}

}  // namespace
}  // namespace pear::test
