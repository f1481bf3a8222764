#include "recommender/scorer.hpp"

#include <algorithm>
#include <array>
#include <utility>

namespace pear::recommender {

bool is_better(const Offer& a, const Offer& b) {
  if (a.expected != b.expected) return a.expected > b.expected;
  return std::pair(a.customer, a.product) < std::pair(b.customer, b.product);
}

Scorer::Scorer(const PurchaseModel& model, const mining::Histories& known, const Constraints& constraints)
    : model_(model),
      known_(known),
      constraints_(constraints),
      last_days_(known.counts.size(), kNever),
      steps_(known.counts.size()),
      category_counts_(model.categories.count),
      category_shares_(model.categories.count) {}

const std::vector<Offer>& Scorer::score(std::uint32_t customer) {
  offers_.clear();
  const auto history = known_.of(customer);
  const std::array<std::int32_t, 1> days = {model_.landmarks.as_of.days};
  for_each_landmark(history, model_.landmarks, days, [&](const CustomerState& now) {
    const std::uint32_t group = model_.groups.group_of(customer);
    expected_items_ = model_.rate.forecast(now, group);
    gather(group, history);
    follow_steps(group, now.last_day);
    for (std::uint32_t product = 0; product < steps_.size(); ++product) {
      const bool is_bought = last_days_[product] != kNever;
      if (constraints_.allowed[product] == 0 || (is_bought && !steps_[product].trigger)) continue;
      add(now, customer, group, product);
      if (is_bought && !offers_.back().is_triggered()) offers_.pop_back();  // not due
    }
    for (const std::uint32_t product : bought_) last_days_[product] = kNever;
  });
  return offers_;
}

void Scorer::gather(std::uint32_t group, std::span<const mining::HistoryEntry> history) {
  std::fill(category_counts_.begin(), category_counts_.end(), 0);
  bought_.clear();
  for (const mining::HistoryEntry& entry : history) {
    ++category_counts_[model_.categories.of_product[entry.code]];
    if (std::exchange(last_days_[entry.code], entry.day) == kNever) bought_.push_back(entry.code);
  }
  model_.shares.of_categories(group, category_counts_, static_cast<std::uint32_t>(history.size()),
                              category_shares_);
  std::sort(bought_.begin(), bought_.end());
}

/// What the customer's purchases trigger.
void Scorer::follow_steps(std::uint32_t group, std::int32_t last_day) {
  std::fill(steps_.begin(), steps_.end(), StepSum{});
  for (const std::uint32_t earlier : bought_) {
    const std::int32_t days_ago = model_.landmarks.as_of.days - last_days_[earlier];
    const RecencyState recency = RecencyState::of(days_ago, last_day > last_days_[earlier]);
    for (const StepCell& cell : model_.steps.after(earlier, recency)) {
      if (last_days_[cell.later] != kNever && cell.later != earlier) continue;
      StepSum& step = steps_[cell.later];
      const double uplift = model_.steps.uplift(cell, group);
      step.none *= 1 - uplift;
      if (uplift <= step.largest) continue;
      step.largest = uplift;
      step.trigger = {model_.steps.place_of(cell), earlier, days_ago};
    }
  }
}

void Scorer::add(const CustomerState& now, std::uint32_t customer, std::uint32_t group,
                 std::uint32_t product) {
  Offer offer;
  offer.customer = customer;
  offer.product = product;
  offer.is_repurchase = last_days_[product] != kNever;
  offer.trigger = steps_[product].trigger;
  offer.orders = now.orders;
  offer.last_ago = now.day - now.last_day;
  const double category_items = expected_items_ * category_shares_[model_.categories.of_product[product]];
  offer.baseline = baseline_probability(model_.rate, model_.shares, category_items, group, product);
  offer.probability = 1 - (1 - offer.baseline) * steps_[product].none;
  const double value = constraints_.rank_by == RankBy::probability ? 1
                       : constraints_.rank_by == RankBy::amount    ? model_.value.amount(group, product)
                                                                   : model_.value.margin(group, product);
  offer.expected = offer.probability * value;
  offers_.push_back(offer);
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
