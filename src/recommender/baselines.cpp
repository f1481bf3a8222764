#include "recommender/baselines.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

#include <absl/container/flat_hash_map.h>

#include "base/pair_key.hpp"

namespace pear::recommender {
namespace {

/// Allowed products by number of customers, most first, then by product.
std::vector<std::uint32_t> in_order(const std::uint32_t* customers,
                                    const std::vector<std::uint8_t>& allowed) {
  std::vector<std::uint32_t> order;
  for (std::uint32_t product = 0; product < allowed.size(); ++product)
    if (allowed[product] != 0) order.push_back(product);
  std::stable_sort(order.begin(), order.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return customers[a] > customers[b]; });
  return order;
}

bool holds(std::span<const mining::HistoryEntry> history, std::uint32_t product) {
  return std::any_of(history.begin(), history.end(),
                     [&](const mining::HistoryEntry& entry) { return entry.code == product; });
}

}  // namespace

std::string_view word_of(BaselineMethod baseline) {
  static constexpr std::array<std::string_view, kBaselineMethods> kWords = {
      "best-sellers", "segment-best-sellers", "bought-together",   "same-buyers",    "linear-model",
      "classes",      "own-best-sellers",     "bought-most-often", "bought-recently"};
  return kWords[static_cast<std::size_t>(baseline)];
}

std::string name_of(BaselineMethod baseline, const std::string& segment) {
  static constexpr std::array<std::string_view, kBaselineMethods> kNames = {
      "best sellers",
      "best sellers of the ",
      "bought together with the last order",
      "products with the same buyers",
      "linear model of products",
      "latent classes of customers",
      "best sellers among own products",
      "bought most often",
      "bought most often lately"};
  std::string name(kNames[static_cast<std::size_t>(baseline)]);
  if (baseline == BaselineMethod::group_best_sellers) name += segment.empty() ? "group" : segment;
  return name;
}

std::span<const BaselineMethod> baselines_of(PurchaseKind kind) {
  static constexpr std::array kOfNew = {BaselineMethod::best_sellers, BaselineMethod::group_best_sellers,
                                        BaselineMethod::companions,   BaselineMethod::neighbours,
                                        BaselineMethod::item_model,   BaselineMethod::classes};
  static constexpr std::array kOfRepurchases = {
      BaselineMethod::own_best_sellers, BaselineMethod::own_frequency, BaselineMethod::recent_frequency};
  if (kind == PurchaseKind::new_product) return kOfNew;
  return kOfRepurchases;
}

Baselines::Baselines(const mining::Histories& known, const analysis::CustomerGroups& groups,
                     const Taste& taste, const std::vector<std::uint8_t>& allowed, Date as_of)
    : known_(known),
      groups_(groups),
      taste_(taste),
      shared_(known),
      best_(in_order(known.counts.data(), allowed)),
      allowed_(allowed),
      as_of_(as_of) {
  const std::size_t products = known.counts.size();
  std::vector<std::uint32_t> customers(groups.count * products);
  for (std::uint32_t customer = 0; customer < known.customers(); ++customer)
    for (const mining::HistoryEntry& entry : known.of(customer))
      customers[groups.group_of(customer) * products + entry.code] += entry.is_first;
  for (std::uint32_t group = 0; group < groups.count; ++group)
    group_best_.push_back(in_order(&customers[group * products], allowed));
  count_companions();
}

void Baselines::count_companions() {
  absl::flat_hash_map<std::uint64_t, std::uint32_t> pairs;
  for (std::uint32_t customer = 0; customer < known_.customers(); ++customer) {
    const auto history = known_.of(customer);
    for (std::size_t a = 0; a < history.size(); ++a)
      for (std::size_t b = a + 1; b < history.size() && history[b].order == history[a].order; ++b)
        ++pairs[pair_key(history[a].code, history[b].code)];
  }
  companions_.resize(known_.counts.size());
  for (const auto& [pair, orders] : pairs) {
    const auto [a, b] = pair_of(pair);
    companions_[a].push_back({b, orders});
    companions_[b].push_back({a, orders});
  }
  for (auto& own : companions_)
    std::sort(own.begin(), own.end(),
              [](const Companion& a, const Companion& b) { return a.product < b.product; });
}

void Baselines::choose(BaselineMethod baseline, std::uint32_t customer, std::size_t most,
                       std::vector<std::uint32_t>& into) const {
  into.clear();
  const auto history = known_.of(customer);
  if (baseline == BaselineMethod::best_sellers) return take_in_order(best_, history, most, into);
  if (baseline == BaselineMethod::group_best_sellers)
    return take_in_order(group_best_[groups_.group_of(customer)], history, most, into);
  if (baseline == BaselineMethod::neighbours || baseline == BaselineMethod::item_model ||
      baseline == BaselineMethod::classes) {
    choose_by_taste(baseline, customer, most, into);
    return take_in_order(best_, history, most, into);
  }
  if (baseline != BaselineMethod::companions) return choose_own(baseline, history, most, into);
  absl::flat_hash_map<std::uint32_t, std::uint32_t> orders;
  for (std::size_t entry = history.size(); entry-- > 0 && history[entry].order == history.back().order;)
    for (const Companion& companion : companions_[history[entry].code])
      if (allowed_[companion.product] != 0 && !holds(history, companion.product))
        orders[companion.product] += companion.orders;
  std::vector<Companion> sorted;
  for (const auto& [product, count] : orders) sorted.push_back({product, count});
  std::sort(sorted.begin(), sorted.end(), [&](const Companion& a, const Companion& b) {
    if (a.orders != b.orders) return a.orders > b.orders;
    const std::uint32_t of_a = known_.counts[a.product], of_b = known_.counts[b.product];
    return of_a != of_b ? of_a > of_b : a.product < b.product;
  });
  for (const Companion& companion : sorted)
    if (into.size() < most) into.push_back(companion.product);
  take_in_order(best_, history, most, into);
}

void Baselines::choose_by_taste(BaselineMethod baseline, std::uint32_t customer, std::size_t most,
                                std::vector<std::uint32_t>& into) const {
  std::vector<double> scores(allowed_.size());
  std::vector<std::uint32_t> bought;
  for (const mining::HistoryEntry& entry : known_.of(customer))
    if (entry.is_first != 0) bought.push_back(entry.code);
  if (baseline == BaselineMethod::classes) {
    std::vector<double> classes(taste_.classes.count());
    taste_.classes.classify(groups_.group_of(customer), bought, classes);
    for (std::uint32_t product = 0; product < scores.size(); ++product)
      scores[product] = taste_.classes.share_of(classes, product);
  } else if (baseline == BaselineMethod::item_model) {
    for (const std::uint32_t product : bought)
      for (const ItemWeights::Weight& weight : taste_.items.from(product))
        scores[weight.product] += weight.weight;
  } else {
    for (const std::uint32_t product : bought)
      for (const SharedBuyers::Other& other : shared_.with(product))
        scores[other.product] += shared_.cosine(product, other);
  }
  for (const std::uint32_t product : bought) scores[product] = 0;
  for (std::uint32_t product = 0; product < scores.size(); ++product)
    if (scores[product] > 0 && allowed_[product] != 0) into.push_back(product);
  const auto last = into.begin() + static_cast<std::ptrdiff_t>(std::min(most, into.size()));
  std::partial_sort(into.begin(), last, into.end(), [&](std::uint32_t a, std::uint32_t b) {
    return scores[a] != scores[b] ? scores[a] > scores[b] : a < b;
  });
  into.erase(last, into.end());
}

void Baselines::choose_own(BaselineMethod baseline, std::span<const mining::HistoryEntry> history,
                           std::size_t most, std::vector<std::uint32_t>& into) const {
  constexpr double kHalfLife = 182.5;  // days
  absl::flat_hash_map<std::uint32_t, double> weights;
  for (const mining::HistoryEntry& entry : history) {
    if (allowed_[entry.code] == 0) continue;
    double& weight = weights[entry.code];
    if (baseline == BaselineMethod::own_best_sellers)
      weight = known_.counts[entry.code];
    else
      weight +=
          baseline == BaselineMethod::own_frequency ? 1 : std::exp2((entry.day - as_of_.days) / kHalfLife);
  }
  for (const auto& [product, weight] : weights) into.push_back(product);
  std::sort(into.begin(), into.end(), [&](std::uint32_t a, std::uint32_t b) {
    const double of_a = weights.at(a), of_b = weights.at(b);
    if (of_a != of_b) return of_a > of_b;
    return known_.counts[a] != known_.counts[b] ? known_.counts[a] > known_.counts[b] : a < b;
  });
  into.resize(std::min(most, into.size()));
}

/// Fills up with products in this order that are not in the list yet.
void Baselines::take_in_order(std::span<const std::uint32_t> order,
                              std::span<const mining::HistoryEntry> history, std::size_t most,
                              std::vector<std::uint32_t>& into) const {
  for (const std::uint32_t product : order) {
    if (into.size() >= most) return;
    if (!holds(history, product) && std::find(into.begin(), into.end(), product) == into.end())
      into.push_back(product);
  }
}

}  // namespace pear::recommender
