// The baselines against their definitions, product by product.
#include "recommender/baselines.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "recommender/known_shop.hpp"
#include "recommender/probability_sum.hpp"
#include "recommender/recency.hpp"

namespace pear::test {
namespace {

using recommender::BaselineMethod;
using Products = std::vector<std::uint32_t>;

/// A shop, and the purchases of each customer as sets and orders.
struct Purchases {
  Known known;
  recommender::Taste taste;
  Products allowed_products;
  std::vector<std::uint8_t> allowed;

  Purchases()
      : known(random_histories(pick(3, 25), pick(3, 9))),
        taste(recommender::Taste::fit(known.histories, known.landmarks, known.groups)) {
    for (std::uint32_t product = 0; product < known.histories.counts.size(); ++product) {
      allowed.push_back(pick(0, 5) == 0 ? 0 : 1);
      if (allowed.back() != 0) allowed_products.push_back(product);
    }
  }
  [[nodiscard]] std::uint32_t customers() const { return known.histories.customers(); }
  [[nodiscard]] std::set<std::uint32_t> bought(std::uint32_t customer) const {
    std::set<std::uint32_t> all;
    for (const mining::HistoryEntry& entry : known.histories.of(customer)) all.insert(entry.code);
    return all;
  }
  /// The products of each order of a customer.
  [[nodiscard]] std::vector<std::set<std::uint32_t>> orders(std::uint32_t customer) const {
    std::map<std::uint32_t, std::set<std::uint32_t>> all;
    for (const mining::HistoryEntry& entry : known.histories.of(customer))
      all[entry.order].insert(entry.code);
    std::vector<std::set<std::uint32_t>> orders;
    for (const auto& [order, products] : all) orders.push_back(products);
    return orders;
  }
  /// How many customers bought a product; of one group, or of all.
  [[nodiscard]] int buyers(std::uint32_t product, int group = -1) const {
    int count = 0;
    for (std::uint32_t customer = 0; customer < customers(); ++customer)
      if (group < 0 || static_cast<int>(known.groups.group_of(customer)) == group)
        count += bought(customer).contains(product) ? 1 : 0;
    return count;
  }
  /// Orders of all customers that contain both.
  [[nodiscard]] int together(std::uint32_t a, std::uint32_t b) const {
    int count = 0;
    for (std::uint32_t customer = 0; customer < customers(); ++customer)
      for (const auto& order : orders(customer)) count += order.contains(a) && order.contains(b) ? 1 : 0;
    return count;
  }
  [[nodiscard]] double cosine(std::uint32_t a, std::uint32_t b) const {
    int both = 0;
    for (std::uint32_t customer = 0; customer < customers(); ++customer)
      both += bought(customer).contains(a) && bought(customer).contains(b) ? 1 : 0;
    return both / std::sqrt(1.0 * buyers(a) * buyers(b));
  }
};

/// The candidates with the largest scores first; the score is a list of numbers, the most important first.
template <class Score>
Products best(Products candidates, std::size_t most, Score score) {
  std::stable_sort(candidates.begin(), candidates.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return score(a) > score(b); });
  candidates.resize(std::min(most, candidates.size()));
  return candidates;
}

/// Fills a list up with what most customers bought.
void fill_up(const Purchases& shop, const Products& fresh, std::size_t most, Products& chosen) {
  for (const std::uint32_t product :
       best(fresh, fresh.size(), [&](std::uint32_t p) { return shop.buyers(p); }))
    if (chosen.size() < most && std::find(chosen.begin(), chosen.end(), product) == chosen.end())
      chosen.push_back(product);
}

Products by_definition(const Purchases& shop, BaselineMethod method, std::uint32_t customer,
                       std::size_t most) {
  const std::set<std::uint32_t> bought = shop.bought(customer);
  Products fresh, own;
  for (const std::uint32_t product : shop.allowed_products)
    (bought.contains(product) ? own : fresh).push_back(product);
  switch (method) {
    case BaselineMethod::best_sellers:
      return best(fresh, most, [&](std::uint32_t p) { return shop.buyers(p); });
    case BaselineMethod::group_best_sellers:
      return best(fresh, most, [&](std::uint32_t p) {
        return shop.buyers(p, static_cast<int>(shop.known.groups.group_of(customer)));
      });
    case BaselineMethod::companions: {
      std::map<std::uint32_t, int> orders;
      const auto all = shop.orders(customer);
      if (!all.empty())
        for (const std::uint32_t last : all.back())
          for (const std::uint32_t product : fresh)
            if (shop.together(last, product) > 0) orders[product] += shop.together(last, product);
      Products found;
      for (const auto& [product, count] : orders) found.push_back(product);
      Products chosen =
          best(found, most, [&](std::uint32_t p) { return std::pair(orders[p], shop.buyers(p)); });
      fill_up(shop, fresh, most, chosen);
      return chosen;
    }
    case BaselineMethod::neighbours: {
      std::map<std::uint32_t, double> scores;
      Products found;
      for (const std::uint32_t product : fresh) {
        for (const std::uint32_t other : bought) scores[product] += shop.cosine(other, product);
        if (scores[product] > 0) found.push_back(product);
      }
      // Equal sums may differ in their last digits.
      Products chosen = best(found, most, [&](std::uint32_t p) { return std::llround(scores[p] * 1e9); });
      fill_up(shop, fresh, most, chosen);
      return chosen;
    }
    default:
      break;
  }
  std::map<std::uint32_t, double> weights;
  for (const mining::HistoryEntry& entry : shop.known.histories.of(customer)) {
    double& weight = weights[entry.code];
    if (method == BaselineMethod::own_best_sellers)
      weight = shop.buyers(entry.code);
    else
      weight += method == BaselineMethod::own_frequency
                    ? 1
                    : std::pow(0.5, (shop.known.landmarks.as_of.days - entry.day) / 182.5);
  }
  return best(own, most,
              [&](std::uint32_t p) { return std::pair(std::llround(weights[p] * 1e9), shop.buyers(p)); });
}

RC_GTEST_PROP(Baselines, AreTheirDefinitions, ()) {
  const Purchases shop;
  const recommender::Baselines baselines(shop.known.histories, shop.known.groups, shop.taste, shop.allowed,
                                         shop.known.landmarks.as_of);
  const auto most = static_cast<std::size_t>(pick(1, 6));
  for (const BaselineMethod method :
       {BaselineMethod::best_sellers, BaselineMethod::group_best_sellers, BaselineMethod::companions,
        BaselineMethod::neighbours, BaselineMethod::own_best_sellers, BaselineMethod::own_frequency,
        BaselineMethod::recent_frequency}) {
    const auto customer = static_cast<std::uint32_t>(pick(0, static_cast<int>(shop.customers()) - 1));
    Products chosen;
    baselines.choose(method, customer, most, chosen);
    RC_LOG() << recommender::word_of(method);
    RC_ASSERT(chosen == by_definition(shop, method, customer, most));
  }
  // The others choose allowed products of their kind, each once.
  for (const BaselineMethod method : {BaselineMethod::item_model, BaselineMethod::classes}) {
    Products chosen;
    baselines.choose(method, 0, most, chosen);
    RC_ASSERT(std::set<std::uint32_t>(chosen.begin(), chosen.end()).size() == chosen.size());
    RC_ASSERT(chosen.size() <= most);
    for (const std::uint32_t product : chosen)
      RC_ASSERT(shop.allowed[product] != 0 && !shop.bought(0).contains(product));
  }
}

TEST(Baselines, HaveWordsAndNames) {
  std::set<std::string> words, names;
  for (const recommender::PurchaseKind kind : recommender::kPurchaseKinds)
    for (const BaselineMethod method : recommender::baselines_of(kind)) {
      words.emplace(recommender::word_of(method));
      names.insert(recommender::name_of(method, "region"));
    }
  EXPECT_EQ(words.size(), recommender::kBaselineMethods);
  EXPECT_EQ(names.size(), recommender::kBaselineMethods);
  EXPECT_TRUE(names.contains("best sellers of the region"));
}

RC_GTEST_PROP(ProbabilitySums, DoNotDependOnTheOrder, ()) {
  std::vector<double> probabilities;
  for (int i = pick(0, 50); i > 0; --i) probabilities.push_back(pick(0, 1'000'000) / 1e6);
  recommender::ProbabilitySum forward, first, second;
  double plain = 0;
  for (std::size_t i = 0; i < probabilities.size(); ++i) {
    forward.add(probabilities[i]);
    (i % 2 == 0 ? first : second).add(probabilities[probabilities.size() - 1 - i]);
    plain += probabilities[i];
  }
  first.add(second);
  RC_ASSERT(first.value() == forward.value());
  RC_ASSERT(std::abs(forward.value() - plain) < 1e-6);
}

TEST(Recency, BandsIncludeTheirFirstDays) {
  for (std::size_t band = 0; band < recommender::kBands; ++band) {
    const std::int32_t first = recommender::kRecencyBands[band];
    EXPECT_EQ(recommender::recency_band(first), band);
    EXPECT_EQ(recommender::recency_band(first - 1), band == 0 ? 0 : band - 1);
    const auto state = recommender::RecencyState::of(first, band % 2 == 1);
    EXPECT_EQ(state.band(), band);
    EXPECT_EQ(state.ordered_since(), band % 2 == 1);
    EXPECT_EQ(recommender::RecencyState::all()[state.index()], state);
  }
  EXPECT_EQ(recommender::recency_band(100'000), recommender::kBands - 1);
  EXPECT_EQ(recommender::days_of_band(3), "30 to 44 days");
  EXPECT_EQ(recommender::days_of_band(recommender::kBands - 1), "730 days or more");
}

}  // namespace
}  // namespace pear::test
