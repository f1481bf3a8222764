#include "recommender/blend/candidates.hpp"

#include <algorithm>
#include <cmath>
#include <initializer_list>
#include <utility>

namespace pear::recommender {
namespace {

constexpr double kLeast = 1e-9;  ///< probability

void set(Features& features, std::initializer_list<double> values) {
  std::transform(values.begin(), values.end(), features.begin(),
                 [](double value) { return static_cast<float>(value); });
}

constexpr double kItemPrior = 4;                              ///< mean sums of weights
constexpr double kUnrelated = kItemPrior / (1 + kItemPrior);  ///< the lift of a product without any weight

/// A share divided by the usual one, shrunk towards 1.
double shrunk_lift(double share, double usual) {
  constexpr double kPrior = 0.25;
  return (share + kPrior * usual + kLeast) / ((1 + kPrior) * usual + kLeast);
}

double log_of(double probability) { return std::log(std::max(probability, kLeast)); }
double log_of_not(double probability) { return -std::log(std::max(1 - probability, kLeast)); }

}  // namespace

std::size_t feature_count(PurchaseKind kind) { return kind == PurchaseKind::new_product ? 8 : 15; }

CandidateReader::CandidateReader(const PurchaseModel& model, const Taste& taste,
                                 const mining::Histories& known, const std::vector<std::uint8_t>& allowed)
    : model_(model),
      taste_(taste),
      known_(known),
      own_(known.counts.size()),
      allowed_(allowed),
      shortlists_(model, taste.classes, allowed),
      steps_(known.counts.size()),
      item_sums_(known.counts.size()),
      marks_(known.counts.size(), kUnseen),
      category_counts_(model.categories.count),
      category_shares_(model.categories.count),
      classes_(taste.classes.count()) {}

const std::vector<Candidate>& CandidateReader::read(std::uint32_t customer,
                                                    std::span<const std::uint32_t> products) {
  candidates_.clear();
  const auto history = known_.of(customer);
  const std::array<std::int32_t, 1> days = {model_.landmarks.as_of.days};
  for_each_landmark(history, model_.landmarks, days, [&](const CustomerState& now) {
    state_ = now;
    const std::uint32_t group = model_.groups.group_of(customer);
    expected_items_ = model_.rate.usual(now, group);
    log_season_ = expected_items_ > 0 ? std::log(model_.rate.forecast(now, group) / expected_items_) : 0;
    gather(group, history);
    follow_steps(group);
    if (products.empty())
      choose_likely(group);
    else
      chosen_.assign(products.begin(), products.end());
    std::sort(chosen_.begin(), chosen_.end());
    for (const std::uint32_t product : chosen_) add(group, product);
    forget();
  });
  return candidates_;
}

const Candidate& CandidateReader::candidate(std::uint32_t product) const {
  return *std::lower_bound(candidates_.begin(), candidates_.end(), product,
                           [](const Candidate& each, std::uint32_t of) { return each.product < of; });
}

void CandidateReader::forget() {
  for (const std::uint32_t product : bought_) own_[product] = {};
  for (const std::uint32_t product : triggered_) steps_[product] = {};
  for (const std::uint32_t product : related_) item_sums_[product] = 0;
  bought_.clear(), triggered_.clear(), related_.clear();
}

/// Allowed ones, each once, with the first mark.
void CandidateReader::consider(const std::vector<std::uint32_t>& products, Mark mark) {
  for (const std::uint32_t product : products)
    if (marks_[product] == kUnseen && allowed_[product] != 0) {
      marks_[product] = mark;
      considered_.push_back(product);
    }
}

void CandidateReader::choose_likely(std::uint32_t group) {
  constexpr std::size_t kMost = 40;
  constexpr double kLikelyClass = 0.05;
  considered_.clear(), likely_.clear(), chosen_.clear(), likely_classes_.clear();
  for (std::size_t place = 0; place < classes_.size(); ++place)
    if (classes_[place] >= kLikelyClass) likely_classes_.push_back(place);
  consider(bought_, kChosen), consider(triggered_, kChosen);
  consider(shortlists_.of_group(group), kConsidered), consider(related_, kConsidered);
  for (const std::size_t place : likely_classes_) consider(shortlists_.of_class(place), kConsidered);
  for (const std::uint32_t product : considered_) {
    if (std::exchange(marks_[product], kUnseen) == kChosen)
      chosen_.push_back(product);
    else
      likely_.emplace_back(-likelihood_of_new(group, product), product);
  }
  if (likely_.size() > kMost) {
    std::nth_element(likely_.begin(), likely_.begin() + kMost, likely_.end());
    likely_.resize(kMost);
  }
  for (const auto& [likelihood, product] : likely_) chosen_.push_back(product);
}

/// The expected number of purchases x class_lift() x item_lift(), the former of the likely classes only:
/// without logarithms and as little else as possible, because it is needed for many products of every
/// customer.
double CandidateReader::likelihood_of_new(std::uint32_t group, std::uint32_t product) const {
  double in_classes = 0;
  for (const std::size_t place : likely_classes_)
    in_classes += classes_[place] * taste_.classes.share(place, product);
  const Shortlists::Usual& usual = shortlists_.usual(group, product);
  return category_shares_[usual.category] * usual.of_category * shrunk_lift(in_classes, usual.of_all) *
         (item_sums_[product] > 0 ? item_lift(product) : kUnrelated);
}

double CandidateReader::baseline_of_new(std::uint32_t group, std::uint32_t product) const {
  const double category_items = expected_items_ * category_shares_[model_.categories.of_product[product]];
  return baseline_probability(model_.rate, model_.shares, category_items, group, product);
}

/// The share of a product in what the customer's classes buy / its share in the group, shrunk towards 1.
double CandidateReader::class_lift(std::uint32_t group, std::uint32_t product) const {
  return shrunk_lift(taste_.classes.share_of(classes_, product), shortlists_.usual(group, product).of_all);
}

/// The sum of the weights from the customer's products / its mean over all customers, shrunk towards 1.
double CandidateReader::item_lift(std::uint32_t product) const {
  constexpr double kLeastMean = 1e-6;
  const double mean = std::max(taste_.items.mean(product), kLeastMean);
  return (std::max(item_sums_[product], 0.0) + kItemPrior * mean) / ((1 + kItemPrior) * mean);
}

void CandidateReader::gather(std::uint32_t group, std::span<const mining::HistoryEntry> history) {
  std::fill(category_counts_.begin(), category_counts_.end(), 0);
  purchases_ = static_cast<double>(history.size());
  weight_ = 0;
  for (const mining::HistoryEntry& entry : history) {
    ++category_counts_[model_.categories.of_product[entry.code]];
    OwnPurchases& own = own_[entry.code];
    if (own.orders++ == 0) {
      own.first_day = entry.day;
      bought_.push_back(entry.code);
    }
    own.last_day = entry.day;
    const double weight = taste_.repeats.weight_of(entry.day);
    own.weight += weight, weight_ += weight;
  }
  model_.shares.of_categories(group, category_counts_, static_cast<std::uint32_t>(history.size()),
                              category_shares_);
  taste_.classes.classify(group, bought_, classes_);
  for (const std::uint32_t product : bought_)
    for (const ItemWeights::Weight& weight : taste_.items.from(product)) {
      double& sum = item_sums_[weight.product];
      if (sum == 0) related_.push_back(weight.product);
      sum += weight.weight;
    }
  std::sort(bought_.begin(), bought_.end());
}

/// What the customer's purchases trigger.
void CandidateReader::follow_steps(std::uint32_t group) {
  for (const std::uint32_t earlier : bought_) {
    const std::int32_t last_day = own_[earlier].last_day;
    const std::int32_t days_ago = model_.landmarks.as_of.days - last_day;
    const RecencyState recency = RecencyState::of(days_ago, state_.last_day > last_day);
    for (const StepCell& cell : model_.steps.after(earlier, recency)) {
      if (own_[cell.later].orders > 0 && cell.later != earlier) continue;
      StepSum& step = steps_[cell.later];
      const double uplift = model_.steps.uplift(cell, group);
      step.none *= 1 - uplift;
      if (uplift <= step.largest) continue;
      if (!step.trigger) triggered_.push_back(cell.later);
      step.largest = uplift;
      step.trigger = {model_.steps.place_of(cell), earlier, days_ago};
    }
  }
}

/// The mean of the Dirichlet-multinomial distribution for a customer with `own` of `all` purchases.
double CandidateReader::own_share(std::uint32_t product, double own, double all) const {
  const RepeatPurchases& repeats = taste_.repeats;
  return (own + repeats.precision() * repeats.share(product)) / (all + repeats.precision());
}

void CandidateReader::add(std::uint32_t group, std::uint32_t product) {
  Candidate candidate;
  candidate.product = product;
  candidate.trigger = steps_[product].trigger;
  candidate.none = steps_[product].none;
  const OwnPurchases& own = own_[product];
  if (own.orders == 0) {
    candidate.baseline = baseline_of_new(group, product);
    if (candidate.probability() <= 0) return;  // nobody ever bought it
    set_features_of_new(group, candidate);
  } else {
    candidate.kind = PurchaseKind::repurchase;
    candidate.own = own;
    candidate.baseline = probability_of_any(expected_items_ * own_share(product, own.weight, weight_),
                                            model_.rate.dispersion());
    set_features_of_repurchase(candidate);
  }
  candidates_.push_back(candidate);
}

void CandidateReader::set_features_of_new(std::uint32_t group, Candidate& candidate) const {
  const std::uint32_t product = candidate.product;
  set(candidate.features,
      {1, log_of(candidate.probability()), log_of_not(candidate.probability()),
       std::log(class_lift(group, product)), std::log(item_lift(product)), taste_.trends.recent(product),
       taste_.trends.season(product), std::log1p(purchases_ / taste_.repeats.precision())});
}

void CandidateReader::set_features_of_repurchase(Candidate& candidate) const {
  constexpr double kGrace = 7, kMonth = 30;  // days
  const OwnPurchases& own = own_[candidate.product];
  const double days_ago = model_.landmarks.as_of.days - own.last_day + kGrace;
  const double late = std::log(days_ago / (taste_.repeats.interval(candidate.product, own) + kGrace));
  set(candidate.features,
      {1, log_of(candidate.baseline), log_of_not(candidate.baseline), -log_of(candidate.none),
       taste_.repeats.tendency(candidate.product), taste_.trends.recent(candidate.product),
       taste_.trends.season(candidate.product), std::log1p(purchases_ / taste_.repeats.precision()),
       std::log(own.orders), late, late * late, own.orders == 1 ? 1.0 : 0.0, std::log(days_ago / kMonth),
       log_of(own_share(candidate.product, own.orders, purchases_)) -
           log_of(own_share(candidate.product, own.weight, weight_)),
       candidate.trigger ? 1.0 : 0.0});
}

}  // namespace pear::recommender
