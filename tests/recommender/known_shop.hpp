// A random shop, and what is known of it before its steps.
#pragma once

#include <utility>

#include <fmt/format.h>

#include "analysis/tables/member_column.hpp"
#include "base/date.hpp"
#include "recommender/rates/baseline.hpp"
#include "support/random_shop.hpp"

namespace pear::test {

constexpr int kOpening = 19'000, kOpenDays = 500;

inline mining::Histories random_histories(int customers, int products) {
  Sales sales;
  for (int customer = 0; customer < customers; ++customer)
    for (int order = pick(1, 8); order > 0; --order) {
      const int day = kOpening + pick(0, kOpenDays);
      for (int line = pick(1, 3); line > 0; --line)
        sales.push_back({fmt::format("A{}-{}", customer, day), to_text(Date{day}),
                         fmt::format("C{}", customer), fmt::format("P{}", pick(1, products)), 1, 100});
    }
  const daybook::Daybook daybook = build(sales).daybook;
  mining::SequenceRule rule;
  rule.repeats = mining::Repeats::all;
  return mining::gather_histories(daybook, analysis::id_key(daybook, daybook::Level::product), rule);
}

/// All that is known of a random shop before its steps.
struct Known {
  mining::Histories histories;
  recommender::Landmarks landmarks;
  analysis::CustomerGroups groups;
  recommender::Categories categories;
  recommender::OrderRate items;
  recommender::CategoryShares shares;

  explicit Known(mining::Histories given) : Known(std::move(given), pick(20, 90)) {}
  Known(mining::Histories given, std::int32_t horizon)
      : histories(std::move(given)),
        landmarks(*recommender::choose_landmarks(Date{kOpening}, Date{kOpening + kOpenDays}, horizon, 365,
                                                 histories.customers())),
        groups(two_groups(histories.customers())),
        categories(two_shelves(histories.counts.size())),
        items(recommender::OrderRate::fit(histories, landmarks, groups)),
        shares(recommender::CategoryShares::fit(histories, groups, categories)) {}

  [[nodiscard]] recommender::Baseline base() const {
    return {histories, landmarks, groups, categories, items, shares};
  }

  static analysis::CustomerGroups two_groups(std::uint32_t customers) {
    analysis::CustomerGroups groups;
    groups.count = 2;
    for (std::uint32_t customer = 0; customer < customers; ++customer)
      groups.of_customer.push_back(customer % 2);
    return groups;
  }
  static recommender::Categories two_shelves(std::size_t products) {
    recommender::Categories categories{2, {}};
    for (std::uint32_t product = 0; product < products; ++product)
      categories.of_product.push_back(product % 2);
    return categories;
  }
};

}  // namespace pear::test
