// Logistic regression with a prior for each coefficient.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

namespace pear::statistics {

/// A normal prior distribution of a coefficient.
struct CoefficientPrior {
  double mean = 0, precision = 1;  ///< the precision is 1 / variance
};

/// Observations of a binary outcome, all with the same number of features.
class LogisticRows {
 public:
  explicit LogisticRows(std::size_t features) : features_(features) {}
  /// `offset` is added to the log odds.
  void add(std::span<const float> features, bool outcome, double offset = 0);
  [[nodiscard]] std::size_t features() const { return features_; }
  [[nodiscard]] std::size_t size() const { return outcomes_.size(); }
  [[nodiscard]] std::span<const float> row(std::size_t place) const {
    return std::span(values_).subspan(place * features_, features_);
  }
  [[nodiscard]] bool outcome(std::size_t place) const { return outcomes_[place] != 0; }
  [[nodiscard]] double offset(std::size_t place) const { return offsets_[place]; }

 private:
  std::size_t features_;
  std::vector<float> values_, offsets_;
  std::vector<std::uint8_t> outcomes_;
};

/// 1 / (1 + e^-x), without overflow.
[[nodiscard]] double logistic(double x);

/// The most likely coefficients given normal priors (ridge regression towards the prior means: le Cessie and
/// van Houwelingen, Ridge estimators in logistic regression, Applied Statistics 41, 1992), by Newton's method
/// with halved steps. Without rows, the prior means. O(rows x features^2) for each of up to 50 steps, on all
/// threads; the same for any number of them.
[[nodiscard]] std::vector<double> fit_logistic(const LogisticRows& rows,
                                               std::span<const CoefficientPrior> priors);

}  // namespace pear::statistics
