#include "recommender/scorer.hpp"

#include <algorithm>
#include <utility>

namespace pear::recommender {

bool is_better(const Offer& a, const Offer& b) {
  if (a.expected != b.expected) return a.expected > b.expected;
  return std::pair(a.customer, a.product) < std::pair(b.customer, b.product);
}

bool has_more_uplift(const Offer& a, const Offer& b) {
  return a.uplift != b.uplift ? a.uplift > b.uplift : is_better(a, b);
}

Scorer::Scorer(const OfferModel& model, const mining::Histories& known, const Constraints& constraints,
               const Baselines* baselines)
    : model_(model),
      known_(known),
      constraints_(constraints),
      baselines_(baselines),
      reader_(model.purchases, model.taste, known, constraints.allowed) {}

const std::vector<Offer>& Scorer::score(std::uint32_t customer) { return score(customer, {}); }

const std::vector<Offer>& Scorer::score(std::uint32_t customer, std::span<const std::uint32_t> products) {
  offers_.clear();
  const std::uint32_t group = model_.purchases.groups.group_of(customer);
  for (const Candidate& candidate : reader_.read(customer, products)) {
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
      offer.own_days = candidate.own.last_day - candidate.own.first_day;
    }
    const double caused = offer.is_repurchase ? (offer.probability - offer.baseline) / offer.probability : 1;
    const double counted = constraints_.uplift ? caused : 1;
    const double orders = model_.blend.orders(candidate.kind, offer.probability);
    const double value = constraints_.rank_by == RankBy::probability
                             ? offer.probability
                             : orders * value_of(group, candidate.product);
    offer.purchases = counted * orders;
    offer.expected = counted * value;
    offer.uplift = caused * value;
  }
  return offers_;
}

double Scorer::value_of(std::uint32_t group, std::uint32_t product) const {
  const PurchaseValue& value = model_.purchases.value;
  return constraints_.rank_by == RankBy::amount ? value.amount(group, product) : value.margin(group, product);
}

void Scorer::best(std::uint32_t customer, std::size_t most, std::vector<Offer>& into,
                  bool (*is_before)(const Offer&, const Offer&)) {
  const auto is_not_worth_it = [&](const Offer& offer) {
    return offer.expected <= 0 || offer.probability < constraints_.min_probability;
  };
  if (constraints_.method) {
    keep_chosen(customer, most);
    std::erase_if(offers_, is_not_worth_it);
    offers_.resize(std::min(most, offers_.size()));
  } else {
    score(customer);
    std::erase_if(offers_, is_not_worth_it);
    const auto last = offers_.begin() + static_cast<std::ptrdiff_t>(std::min(most, offers_.size()));
    std::partial_sort(offers_.begin(), last, offers_.end(), is_before);
    offers_.erase(last, offers_.end());
  }
  std::uint32_t rank = 0;
  for (Offer& offer : offers_) {
    offer.rank = ++rank;
    offer.parts = model_.blend.parts(reader_.candidate(offer.product), offer.baseline, reader_.log_season());
    find_similar(offer);
    into.push_back(offer);
  }
}

/// The products that constraints.method chooses, in its order: some more than needed, because not all may be
/// worth an offer.
void Scorer::keep_chosen(std::uint32_t customer, std::size_t most) {
  constexpr std::size_t kSpare = 20;
  baselines_->choose(*constraints_.method, customer, most + kSpare, products_);
  if (products_.empty()) return offers_.clear();
  score(customer, products_);
  std::vector<Offer> chosen;
  for (const std::uint32_t product : products_) {
    const auto found =
        std::lower_bound(offers_.begin(), offers_.end(), product,
                         [](const Offer& offer, std::uint32_t of) { return offer.product < of; });
    if (found != offers_.end() && found->product == product) chosen.push_back(*found);
  }
  offers_ = std::move(chosen);
}

void Scorer::find_similar(Offer& offer) const {
  if (offer.is_repurchase) return;
  float largest = 0;
  for (const mining::HistoryEntry& entry : known_.of(offer.customer)) {
    if (entry.is_first == 0) continue;
    const float weight = model_.taste.items.weight(entry.code, offer.product);
    if (weight > largest) largest = weight, offer.similar = entry.code;
  }
}

}  // namespace pear::recommender
