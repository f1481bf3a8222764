// How much weight each part of the model has, learned from what customers bought after an earlier day.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "recommender/blend/candidates.hpp"
#include "statistics/logistic_regression.hpp"

namespace pear::recommender {

/// Candidates of earlier days, and whether customers bought them.
class ObservedCandidates {
 public:
  ObservedCandidates();
  /// `model` and `taste` are fitted to `known`, the histories up to a day; `histories` contain the horizon
  /// after it. Adds up to `most` candidates, of customers evenly spread.
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

/// A logistic regression for each kind of purchase. Its prior is the purchase model as it is, so that few
/// purchases change little.
class Blend {
 public:
  [[nodiscard]] static Blend fit(const ObservedCandidates& observed);

  [[nodiscard]] double probability(const Candidate& candidate) const;
  /// The expected number of orders with a product within the horizon, if it is bought with this probability:
  /// p x (1 - f log(1 - p)). For a Poisson distribution, f is about 1/2.
  [[nodiscard]] double orders(PurchaseKind kind, double probability) const;
  [[nodiscard]] const std::vector<double>& coefficients(PurchaseKind kind) const {
    return coefficients_[static_cast<std::size_t>(kind)];
  }

 private:
  void fit_orders(PurchaseKind kind, const ObservedCandidates& observed);

  std::array<std::vector<double>, kPurchaseKinds.size()> coefficients_;
  std::array<double, kPurchaseKinds.size()> further_{};  ///< f of orders()
};

}  // namespace pear::recommender
