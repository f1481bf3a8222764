#include "recommender/blend/blend.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace pear::recommender {
namespace {

std::vector<statistics::CoefficientPrior> priors_of(PurchaseKind kind) {
  constexpr double kPrecision = 10, kTaste = 0.5;
  std::vector<statistics::CoefficientPrior> priors(feature_count(kind), {0, kPrecision});
  // log p - log(1 - p) are the log odds.
  priors[kLogProbability].mean = priors[kLogProbability + 1].mean = 1;
  if (kind == PurchaseKind::repurchase) priors[kSteps].mean = 1;
  if (kind == PurchaseKind::new_product) {
    constexpr double kItemPrecision = 3;  // it varies less than the others
    priors[kClasses].mean = kTaste;
    priors[kItems].precision = kItemPrecision;
  }
  return priors;
}

/// A customer's orders with a product within the horizon.
std::uint32_t orders_with(std::span<const mining::HistoryEntry> history, std::uint32_t product,
                          const Landmarks& landmarks) {
  const std::int32_t day = landmarks.as_of.days;
  std::uint32_t orders = 0;
  for (auto entry = history.rbegin(); entry != history.rend() && entry->day > day; ++entry)
    orders += entry->code == product && entry->day <= day + landmarks.horizon ? 1U : 0U;
  return orders;
}

/// How many times the usual number of products customers ordered within the horizon. The weights of the parts
/// must not depend on the season from which they were learned.
double level_of(const PurchaseModel& model, const mining::Histories& known,
                const mining::Histories& histories) {
  constexpr double kWeight = 20;  // products
  const std::array<std::int32_t, 1> days = {model.landmarks.as_of.days};
  double ordered = kWeight, usual = kWeight;
  for (std::uint32_t customer = 0; customer < known.customers(); ++customer) {
    if (known.of(customer).empty()) continue;
    for_each_landmark(histories.of(customer), model.landmarks, days, [&](const CustomerState& now) {
      ordered += now.seen - now.known;
      usual += model.rate.usual(now, model.groups.group_of(customer));
    });
  }
  return ordered / usual;
}

double clamped(double probability) {
  constexpr double kLeast = 1e-9;
  return std::clamp(probability, kLeast, 1 - kLeast);
}

double hazard_of(double probability) { return -std::log1p(-clamped(probability)); }

}  // namespace

ObservedCandidates::ObservedCandidates()
    : rows_{statistics::LogisticRows(feature_count(PurchaseKind::new_product)),
            statistics::LogisticRows(feature_count(PurchaseKind::repurchase))} {}

void ObservedCandidates::add(const PurchaseModel& model, const Taste& taste, const mining::Histories& known,
                             const mining::Histories& histories, std::uint64_t most) {
  const std::vector<std::uint8_t> all(known.counts.size(), 1);
  constexpr std::uint64_t kOfCustomer = 60;  // candidates of a customer, about
  const CustomerSample sample = CustomerSample::of_about(most, known.buyers * kOfCustomer);
  CandidateReader reader(model, taste, known, all);
  const double log_season = std::log(level_of(model, known, histories));
  for (std::uint32_t customer = 0; customer < known.customers(); ++customer) {
    if (known.of(customer).empty() || !sample.contains(customer)) continue;
    for (const Candidate& candidate : reader.read(customer)) {
      statistics::LogisticRows& own = rows_[static_cast<std::size_t>(candidate.kind)];
      const std::uint32_t orders = orders_with(histories.of(customer), candidate.product, model.landmarks);
      own.add(std::span(candidate.features).first(own.features()), orders > 0, log_season);
      if (orders > 1) further_orders_[static_cast<std::size_t>(candidate.kind)] += orders - 1;
    }
  }
}

Blend Blend::fit(const ObservedCandidates& observed) {
  Blend blend;
  for (const PurchaseKind kind : kPurchaseKinds) {
    const statistics::LogisticRows& rows = observed.of(kind);
    OfKind& own = blend.kinds_[static_cast<std::size_t>(kind)];
    own.weights = statistics::fit_logistic(rows, priors_of(kind));
    calibrate(rows, own);
    fit_orders(rows, observed.further_orders(kind), own);
  }
  return blend;
}

/// Unless it would turn the order of probabilities around.
void Blend::calibrate(const statistics::LogisticRows& rows, OfKind& kind) {
  constexpr double kPrecision = 10;
  constexpr std::array<statistics::CoefficientPrior, 3> kPriors = {
      {{0, kPrecision}, {1, kPrecision}, {1, kPrecision}}};
  statistics::LogisticRows stated(kPriors.size());
  for (std::size_t row = 0; row < rows.size(); ++row) {
    const double p = clamped(probability(kind, rows.row(row), rows.offset(row)));
    const std::array<float, 3> features = {1, static_cast<float>(std::log(p)),
                                           static_cast<float>(hazard_of(p))};
    stated.add(features, rows.outcome(row));
  }
  const std::vector<double> fitted = statistics::fit_logistic(stated, kPriors);
  if (fitted[1] > 0 && fitted[2] > 0) std::copy(fitted.begin(), fitted.end(), kind.calibration.begin());
}

/// By the method of moments, shrunk towards 1/2.
void Blend::fit_orders(const statistics::LogisticRows& rows, double further_orders, OfKind& kind) {
  constexpr double kWeight = 5;  // orders
  double expected = kWeight;
  for (std::size_t row = 0; row < rows.size(); ++row) {
    const double p = probability(kind, rows.row(row), rows.offset(row));
    expected += p * hazard_of(p);
  }
  kind.further = (further_orders + kWeight / 2) / expected;
}

double Blend::probability(const OfKind& kind, std::span<const float> features, double log_season) {
  const double p = clamped(statistics::logistic(
      std::inner_product(kind.weights.begin(), kind.weights.end(), features.begin(), log_season)));
  const auto& [constant, of_log, of_hazard] = kind.calibration;
  return statistics::logistic(constant + of_log * std::log(p) + of_hazard * hazard_of(p));
}

double Blend::probability(const Candidate& candidate, double log_season) const {
  const OfKind& own = of(candidate.kind);
  return probability(own, std::span(candidate.features).first(own.weights.size()), log_season);
}

ProbabilityParts Blend::parts(const Candidate& candidate, double baseline, double log_season) const {
  Candidate without = candidate;
  const double all = probability(candidate, log_season);
  without.features[kRecentTrend] = without.features[kSeasonTrend] = 0;
  const double without_trends = probability(without, log_season);
  double usual = without_trends;
  if (candidate.kind == PurchaseKind::new_product) {
    without.features[kClasses] = without.features[kItems] = 0;
    usual = probability(without, log_season);
  }
  const auto scaled = [&](double part) { return static_cast<float>(part * baseline / all); };
  return {scaled(usual), scaled(without_trends - usual), scaled(all - without_trends),
          static_cast<float>(all - baseline)};
}

double Blend::orders(PurchaseKind kind, double probability) const {
  return probability * (1 + of(kind).further * hazard_of(probability));
}

}  // namespace pear::recommender
