#include "recommender/backtest_fold.hpp"

#include <algorithm>
#include <cmath>

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include "daybook/columns/derived_columns.hpp"

namespace pear::recommender {
namespace {

std::size_t probability_group(double probability) {
  const auto above = std::upper_bound(kProbabilityBounds.begin(), kProbabilityBounds.end() - 1, probability);
  return static_cast<std::size_t>(above - kProbabilityBounds.begin()) - 1;
}

std::size_t plan_count(const BacktestRules& rules) {
  return rules.constraints.rank_by == RankBy::probability ? 1 : 2;
}

}  // namespace

void BacktestSums::Depth::add(const Depth& other, std::int64_t times) {
  offers += other.offers * times;
  hits += other.hits * times;
  found += other.found * times;
}

void BacktestSums::Probabilities::add(const Probabilities& other, std::int64_t times) {
  pairs += other.pairs * times;
  bought += other.bought * times;
  stated += other.stated * times;
}

BacktestSums::BacktestSums(const BacktestRules& rules) : plans(plan_count(rules)) {
  for (const PurchaseKind kind : kPurchaseKinds)
    kinds[static_cast<std::size_t>(kind)].methods.resize(plan_count(rules) + baselines_of(kind).size());
}

void BacktestSums::add(const BacktestSums& other, std::int64_t times) {
  const auto add_depths = [&](std::vector<Depths>& to, const std::vector<Depths>& from) {
    for (std::size_t method = 0; method < to.size(); ++method)
      for (std::size_t depth = 0; depth < kDepths.size(); ++depth)
        to[method][depth].add(from[method][depth], times);
  };
  customers += other.customers * times;
  add_depths(plans, other.plans);
  for (std::size_t i = 0; i < kinds.size(); ++i) {
    Kind& kind = kinds[i];
    kind.bought += other.kinds[i].bought * times;
    add_depths(kind.methods, other.kinds[i].methods);
    for (std::size_t group = 0; group < kProbabilityGroups; ++group)
      kind.by_probability[group].add(other.kinds[i].by_probability[group], times);
    for (std::size_t third = 0; third < kind.by_purchases.size(); ++third)
      kind.by_purchases[third].add(other.kinds[i].by_purchases[third], times);
  }
}

BacktestFold::BacktestFold(const analysis::QuestionInput& input, const mining::Histories& known,
                           const OfferModel& model, const BacktestRules& rules)
    : daybook_(input.daybook),
      purchases_(input.daybook),
      known_(known),
      model_(model),
      rules_(rules),
      by_probability_(rules.constraints),
      baselines_(known, model.purchases.groups, model.taste, rules.constraints.allowed,
                 model.purchases.landmarks.as_of) {
  by_probability_.rank_by = RankBy::probability;
  margins_ = daybook::known_margins(input.daybook);
}

void BacktestFold::score(const std::vector<std::uint8_t>& planned, std::vector<BacktestSums>& into) {
  groups_ = into.size();
  find_thirds(planned);
  tbb::enumerable_thread_specific<Own> all([&] {
    return Own{Scorer(model_, known_, by_probability_),
               Scorer(model_, known_, rules_.constraints),
               std::vector<BacktestSums>(groups_, BacktestSums(rules_)),
               {},
               {},
               {}};
  });
  tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, daybook_.customers(), 2048), [&](const auto& run) {
    Own& own = all.local();
    for (std::uint32_t customer = run.begin(); customer != run.end(); ++customer)
      if (planned[customer] != 0) score(customer, own);
  });
  for (const Own& own : all)
    for (std::size_t group = 0; group < groups_; ++group) into[group].add(own.sums[group]);
}

/// Of the active customers who are planned for.
void BacktestFold::find_thirds(const std::vector<std::uint8_t>& planned) {
  std::vector<std::size_t> purchases;
  const std::array<std::int32_t, 1> days = {model_.purchases.landmarks.as_of.days};
  for (std::uint32_t customer = 0; customer < daybook_.customers(); ++customer)
    if (planned[customer] != 0)
      for_each_landmark(known_.of(customer), model_.purchases.landmarks, days,
                        [&](const CustomerState& now) { purchases.push_back(now.known); });
  std::sort(purchases.begin(), purchases.end());
  for (std::size_t third = 0; third < thirds_.size(); ++third)
    thirds_[third] = purchases.empty() ? 0 : purchases[(third + 1) * (purchases.size() - 1) / 3];
}

void BacktestFold::score(std::uint32_t customer, Own& own) {
  const std::vector<Offer>& candidates = own.by_probability.score(customer);
  if (candidates.empty()) return;
  find_bought(customer, own.bought);
  BacktestSums& sums = own.sums[customer % groups_];
  ++sums.customers;
  for (const Bought& bought : own.bought)
    if (rules_.constraints.allowed[bought.product] != 0) ++sums.kinds[bought.is_repurchase ? 1 : 0].bought;
  score_calibration(customer, candidates, own, sums);
  score_plan(candidates, 0, own, sums);
  if (sums.plans.size() > 1) score_plan(own.as_asked.score(customer), 1, own, sums);
  for (const PurchaseKind kind : kPurchaseKinds) {
    std::size_t method = sums.plans.size();
    for (const BaselineMethod baseline : baselines_of(kind)) {
      baselines_.choose(baseline, customer, kDepths.back(), own.products);
      score_products(own, sums.kinds[static_cast<std::size_t>(kind)].methods[method++]);
    }
  }
}

void BacktestFold::score_calibration(std::uint32_t customer, const std::vector<Offer>& candidates,
                                     const Own& own, BacktestSums& sums) const {
  const std::size_t purchases = known_.of(customer).size();
  const std::size_t third = purchases <= thirds_[0] ? 0 : purchases <= thirds_[1] ? 1 : 2;
  for (const Offer& offer : candidates) {
    const BacktestSums::Probabilities one{1, what_of(offer.product, own.bought) != nullptr ? 1 : 0,
                                          std::llround(offer.probability * kProbabilityUnits)};
    BacktestSums::Kind& kind = sums.kinds[offer.is_repurchase ? 1 : 0];
    kind.by_probability[probability_group(offer.probability)].add(one, 1);
    kind.by_purchases[third].add(one, 1);
  }
}

/// The plan's best offers of each kind, and of both.
void BacktestFold::score_plan(const std::vector<Offer>& candidates, std::size_t method, Own& own,
                              BacktestSums& sums) const {
  own.offers.clear();
  for (const Offer& offer : candidates)
    if (offer.expected > 0) own.offers.push_back(offer);
  std::sort(own.offers.begin(), own.offers.end(), is_better);
  const auto score_if = [&](const auto& is_meant, BacktestSums::Depths& depths) {
    own.products.clear();
    for (const Offer& offer : own.offers)
      if (own.products.size() < kDepths.back() && is_meant(offer)) own.products.push_back(offer.product);
    score_products(own, depths);
  };
  score_if([](const Offer& offer) { return !offer.is_repurchase; }, sums.kinds[0].methods[method]);
  score_if([](const Offer& offer) { return offer.is_repurchase; }, sums.kinds[1].methods[method]);
  score_if([](const Offer&) { return true; }, sums.plans[method]);
}

void BacktestFold::score_products(const Own& own, BacktestSums::Depths& depths) {
  for (std::size_t i = 0; i < own.products.size(); ++i) {
    const Bought* bought = what_of(own.products[i], own.bought);
    for (std::size_t depth = 0; depth < kDepths.size(); ++depth) {
      if (i >= kDepths[depth]) continue;
      ++depths[depth].offers;
      if (bought == nullptr) continue;
      ++depths[depth].hits;
      depths[depth].found += bought->found;
    }
  }
}

const BacktestFold::Bought* BacktestFold::what_of(std::uint32_t product, const std::vector<Bought>& bought) {
  const auto found =
      std::find_if(bought.begin(), bought.end(), [&](const Bought& each) { return each.product == product; });
  return found == bought.end() ? nullptr : &*found;
}

void BacktestFold::find_bought(std::uint32_t customer, std::vector<Bought>& bought) const {
  bought.clear();
  const auto history = known_.of(customer);
  const std::int32_t cut = model_.purchases.landmarks.as_of.days;
  const auto days = daybook_.order_days();
  const daybook::Run orders = daybook_.orders_of(customer);
  for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
    if (days[order] <= cut || days[order] > cut + model_.purchases.landmarks.horizon) continue;
    const daybook::Run lines = daybook_.lines_of(order);
    for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
      if (!purchases_.is_of_product(line)) continue;
      const std::uint32_t product = daybook_.line_products()[line];
      auto found = std::find_if(bought.begin(), bought.end(),
                                [&](const Bought& each) { return each.product == product; });
      if (found == bought.end()) {
        const bool is_repurchase =
            std::any_of(history.begin(), history.end(),
                        [&](const mining::HistoryEntry& entry) { return entry.code == product; });
        found = bought.insert(found, {product, 0, is_repurchase});
      }
      const std::int64_t brought = margins_.empty() ? daybook_.amounts()[line] : margins_[line];
      if (brought != daybook::kEmptyUnits) found->found += brought;
    }
  }
}

}  // namespace pear::recommender
