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
  if (kind == PurchaseKind::new_product) priors[kClasses].mean = kTaste, priors[kItems].precision = 3;
  if (kind == PurchaseKind::repurchase) priors[kSteps].mean = 1;
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

double probability_of(const std::vector<double>& coefficients, std::span<const float> features) {
  return statistics::logistic(
      std::inner_product(coefficients.begin(), coefficients.end(), features.begin(), 0.0));
}

double hazard_of(double probability) { return -std::log1p(-std::min(probability, 1 - 1e-9)); }

}  // namespace

ObservedCandidates::ObservedCandidates()
    : rows_{statistics::LogisticRows(feature_count(PurchaseKind::new_product)),
            statistics::LogisticRows(feature_count(PurchaseKind::repurchase))} {}

void ObservedCandidates::add(const PurchaseModel& model, const Taste& taste, const mining::Histories& known,
                             const mining::Histories& histories, std::uint64_t most) {
  const std::vector<std::uint8_t> all(known.counts.size(), 1);
  constexpr std::uint64_t kOfCustomer = 60;  // candidates of a customer, about
  const std::uint64_t apart = 1 + known.buyers * kOfCustomer / most;
  std::uint64_t buyers = 0;
  CandidateReader reader(model, taste, known, all);
  for (std::uint32_t customer = 0; customer < known.customers(); ++customer) {
    if (known.of(customer).empty() || buyers++ % apart != 0) continue;
    for (const Candidate& candidate : reader.read(customer)) {
      statistics::LogisticRows& own = rows_[static_cast<std::size_t>(candidate.kind)];
      const std::uint32_t orders = orders_with(histories.of(customer), candidate.product, model.landmarks);
      own.add(std::span(candidate.features).first(own.features()), orders > 0);
      if (orders > 1) further_orders_[static_cast<std::size_t>(candidate.kind)] += orders - 1;
    }
  }
}

Blend Blend::fit(const ObservedCandidates& observed) {
  Blend blend;
  for (const PurchaseKind kind : kPurchaseKinds) {
    blend.coefficients_[static_cast<std::size_t>(kind)] =
        statistics::fit_logistic(observed.of(kind), priors_of(kind));
    blend.fit_orders(kind, observed);
  }
  return blend;
}

/// By the method of moments, shrunk towards 1/2.
void Blend::fit_orders(PurchaseKind kind, const ObservedCandidates& observed) {
  constexpr double kWeight = 5;  // orders
  const statistics::LogisticRows& rows = observed.of(kind);
  double expected = kWeight;
  for (std::size_t row = 0; row < rows.size(); ++row) {
    const double probability = probability_of(coefficients(kind), rows.row(row));
    expected += probability * hazard_of(probability);
  }
  further_[static_cast<std::size_t>(kind)] = (observed.further_orders(kind) + kWeight / 2) / expected;
}

double Blend::probability(const Candidate& candidate) const {
  const std::vector<double>& own = coefficients(candidate.kind);
  return probability_of(own, std::span(candidate.features).first(own.size()));
}

double Blend::orders(PurchaseKind kind, double probability) const {
  return probability * (1 + further_[static_cast<std::size_t>(kind)] * hazard_of(probability));
}

}  // namespace pear::recommender
