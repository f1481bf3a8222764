#include "recommender/scorer.hpp"

#include <algorithm>
#include <utility>

namespace pear::recommender {

bool is_better(const Offer& a, const Offer& b) {
  if (a.expected != b.expected) return a.expected > b.expected;
  return std::pair(a.customer, a.product) < std::pair(b.customer, b.product);
}

Scorer::Scorer(const OfferModel& model, const mining::Histories& known, const Constraints& constraints)
    : model_(model),
      constraints_(constraints),
      reader_(model.purchases, model.taste, known, constraints.allowed) {}

const std::vector<Offer>& Scorer::score(std::uint32_t customer) {
  offers_.clear();
  const std::uint32_t group = model_.purchases.groups.group_of(customer);
  for (const Candidate& candidate : reader_.read(customer)) {
    const CustomerState& now = reader_.state();
    Offer& offer = offers_.emplace_back();
    offer.customer = customer;
    offer.product = candidate.product;
    offer.is_repurchase = candidate.kind == PurchaseKind::repurchase;
    offer.probability = model_.blend.probability(candidate, reader_.log_season());
    offer.baseline = offer.probability * candidate.baseline / candidate.probability();
    offer.trigger = candidate.trigger;
    offer.orders = now.orders;
    offer.last_ago = now.day - now.last_day;
    if (offer.is_repurchase) {
      offer.own_orders = candidate.own.orders;
      offer.own_last_ago = now.day - candidate.own.last_day;
    }
    const double counted = constraints_.uplift && offer.is_repurchase
                               ? (offer.probability - offer.baseline) / offer.probability
                               : 1;
    offer.purchases = counted * model_.blend.orders(candidate.kind, offer.probability);
    offer.expected = constraints_.rank_by == RankBy::probability
                         ? counted * offer.probability
                         : offer.purchases * value_of(group, candidate.product);
  }
  return offers_;
}

double Scorer::value_of(std::uint32_t group, std::uint32_t product) const {
  const PurchaseValue& value = model_.purchases.value;
  return constraints_.rank_by == RankBy::amount ? value.amount(group, product) : value.margin(group, product);
}

void Scorer::best(std::uint32_t customer, std::size_t most, std::vector<Offer>& into) {
  score(customer);
  const auto end = std::remove_if(offers_.begin(), offers_.end(), [&](const Offer& offer) {
    return offer.expected <= 0 || offer.probability < constraints_.min_probability;
  });
  const auto found = static_cast<std::size_t>(end - offers_.begin());
  const auto last = offers_.begin() + static_cast<std::ptrdiff_t>(std::min(most, found));
  std::partial_sort(offers_.begin(), last, end, is_better);
  into.insert(into.end(), offers_.begin(), last);
}

}  // namespace pear::recommender
