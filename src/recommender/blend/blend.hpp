// How much weight each part of the model has, learned from what customers bought after an earlier day.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "recommender/blend/candidates.hpp"
#include "statistics/logistic_regression.hpp"

namespace pear::recommender {

/// Candidates of earlier days, and whether customers bought them.
class ObservedCandidates {
 public:
  ObservedCandidates();
  /// `model` and `taste` are fitted to `known`, the histories up to a day; `histories` contain the horizon
  /// after it. Adds about `most` candidates at most, of a sample of customers.
  void add(const PurchaseModel& model, const Taste& taste, const mining::Histories& known,
           const mining::Histories& histories, std::uint64_t most);
  [[nodiscard]] const statistics::LogisticRows& of(PurchaseKind kind) const {
    return rows_[static_cast<std::size_t>(kind)];
  }
  /// Orders with a product within the horizon beyond the first one, of all candidates.
  [[nodiscard]] double further_orders(PurchaseKind kind) const {
    return further_orders_[static_cast<std::size_t>(kind)];
  }

 private:
  std::array<statistics::LogisticRows, kPurchaseKinds.size()> rows_;
  std::array<double, kPurchaseKinds.size()> further_orders_{};
};

/// What a probability consists of; the parts add up to it, and may be negative. Each is what the probability
/// increases by if the part is added to those before it.
struct ProbabilityParts {
  float usual = 0;   ///< of a new product: order rate x share in the group; of a repurchase: own purchases
  float taste = 0;   ///< similar customers: latent classes and the linear model of products
  float trends = 0;  ///< of the product: lately, and in the season
  float steps = 0;   ///< triggered by earlier purchases
};

/// A logistic regression for each kind of purchase. Its prior is the purchase model as it is, so that few
/// purchases change little. Its probabilities are calibrated once more (beta calibration: Kull, Silva Filho
/// and Flach, AISTATS 2017), because steps do not add up on the scale of log odds.
class Blend {
 public:
  [[nodiscard]] static Blend fit(const ObservedCandidates& observed);

  /// `log_season`: the logarithm of how many times the usual number of products the customer orders. It is
  /// added to the log odds.
  [[nodiscard]] double probability(const Candidate& candidate, double log_season) const;
  /// `baseline` is the part of the probability that would be left without any step.
  [[nodiscard]] ProbabilityParts parts(const Candidate& candidate, double baseline, double log_season) const;
  /// The expected number of orders with a product within the horizon, if it is bought with this probability:
  /// p x (1 - f log(1 - p)). For a Poisson distribution, f is about 1/2.
  [[nodiscard]] double orders(PurchaseKind kind, double probability) const;

 private:
  struct OfKind {
    std::vector<double> weights;                 ///< of the features
    std::array<double, 3> calibration{0, 1, 1};  ///< of 1, log p and -log(1 - p)
    double further = 0.5;                        ///< f of orders()
  };
  [[nodiscard]] const OfKind& of(PurchaseKind kind) const { return kinds_[static_cast<std::size_t>(kind)]; }
  [[nodiscard]] static double probability(const OfKind& kind, std::span<const float> features,
                                          double log_season);
  static void calibrate(const statistics::LogisticRows& rows, OfKind& kind);
  static void fit_orders(const statistics::LogisticRows& rows, double further_orders, OfKind& kind);

  std::array<OfKind, kPurchaseKinds.size()> kinds_;
};

}  // namespace pear::recommender
