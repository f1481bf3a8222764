#include "statistics/logistic_regression.hpp"

#include <Eigen/Cholesky>
#include <Eigen/Core>
#include <algorithm>
#include <cmath>

#include <tbb/parallel_for.h>

namespace pear::statistics {
namespace {

/// The log likelihood with the prior, its gradient and its negative second derivatives.
struct Curvature {
  double likelihood = 0;
  Eigen::VectorXd gradient;
  Eigen::MatrixXd information;

  explicit Curvature(Eigen::Index features)
      : gradient(Eigen::VectorXd::Zero(features)), information(Eigen::MatrixXd::Zero(features, features)) {}
  void add(const Curvature& other) {
    likelihood += other.likelihood;
    gradient += other.gradient;
    information += other.information;
  }
};

/// log(1 + e^x)
double softplus(double x) { return std::max(x, 0.0) + std::log1p(std::exp(-std::abs(x))); }

Curvature of_rows(const LogisticRows& rows, const Eigen::VectorXd& coefficients, std::size_t begin,
                  std::size_t end) {
  const std::size_t features = rows.features();
  const double* weights = coefficients.data();
  std::vector<double> values(features), gradient(features), information(features * features);
  Curvature sum(coefficients.size());
  for (std::size_t row = begin; row < end; ++row) {
    const auto given = rows.row(row);
    double x = rows.offset(row);
    for (std::size_t i = 0; i < features; ++i) {
      values[i] = given[i];
      x += values[i] * weights[i];
    }
    const double p = logistic(x);
    const double outcome = rows.outcome(row) ? 1 : 0;
    sum.likelihood += outcome * x - softplus(x);
    for (std::size_t i = 0; i < features; ++i) {
      gradient[i] += (outcome - p) * values[i];
      const double weighted = p * (1 - p) * values[i];
      for (std::size_t j = 0; j <= i; ++j) information[j * features + i] += weighted * values[j];
    }
  }
  sum.gradient = Eigen::Map<const Eigen::VectorXd>(gradient.data(), coefficients.size());
  sum.information =
      Eigen::Map<const Eigen::MatrixXd>(information.data(), coefficients.size(), coefficients.size());
  return sum;
}

/// Added up in blocks of a fixed size and in their order, because sums of doubles depend on it.
Curvature curvature(const LogisticRows& rows, const Eigen::VectorXd& coefficients,
                    std::span<const CoefficientPrior> priors) {
  constexpr std::size_t kBlock = 8'192;
  std::vector<Curvature> blocks((rows.size() + kBlock - 1) / kBlock, Curvature(coefficients.size()));
  tbb::parallel_for(std::size_t{0}, blocks.size(), [&](std::size_t block) {
    blocks[block] = of_rows(rows, coefficients, block * kBlock, std::min(rows.size(), (block + 1) * kBlock));
  });
  Curvature all(coefficients.size());
  for (const Curvature& block : blocks) all.add(block);
  for (Eigen::Index i = 0; i < coefficients.size(); ++i) {
    const auto& [mean, precision] = priors[static_cast<std::size_t>(i)];
    const double distance = coefficients[i] - mean;
    all.likelihood -= precision * distance * distance / 2;
    all.gradient[i] -= precision * distance;
    all.information(i, i) += precision;
  }
  return all;
}

}  // namespace

void LogisticRows::add(std::span<const float> features, bool outcome, double offset) {
  values_.insert(values_.end(), features.begin(), features.end());
  outcomes_.push_back(outcome ? 1 : 0);
  offsets_.push_back(static_cast<float>(offset));
}

double logistic(double x) {
  if (x >= 0) return 1 / (1 + std::exp(-x));
  const double odds = std::exp(x);
  return odds / (1 + odds);
}

std::vector<double> fit_logistic(const LogisticRows& rows, std::span<const CoefficientPrior> priors) {
  constexpr int kMostSteps = 50, kMostHalvings = 20;
  constexpr double kSmallGain = 1e-9;
  Eigen::VectorXd coefficients(static_cast<Eigen::Index>(priors.size()));
  for (std::size_t i = 0; i < priors.size(); ++i) coefficients[static_cast<Eigen::Index>(i)] = priors[i].mean;
  Curvature now = curvature(rows, coefficients, priors);
  for (int step = 0; step < kMostSteps; ++step) {
    Eigen::VectorXd change = now.information.selfadjointView<Eigen::Lower>().ldlt().solve(now.gradient);
    Curvature next = curvature(rows, coefficients + change, priors);
    for (int halving = 0; next.likelihood < now.likelihood && halving < kMostHalvings; ++halving) {
      change /= 2;
      next = curvature(rows, coefficients + change, priors);
    }
    if (!(next.likelihood >= now.likelihood)) break;
    coefficients += change;
    const double gain = next.likelihood - now.likelihood;
    now = std::move(next);
    if (gain <= kSmallGain * (1 + std::abs(now.likelihood))) break;
  }
  return {coefficients.data(), coefficients.data() + coefficients.size()};
}

}  // namespace pear::statistics
