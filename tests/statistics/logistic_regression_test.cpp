// Logistic regression: the optimum by its definition, and coefficients that were simulated.
#include "statistics/logistic_regression.hpp"

#include <array>
#include <cmath>
#include <random>
#include <vector>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// At the optimum, what the rows pull in one direction equals what the priors pull in the other.
RC_GTEST_PROP(LogisticRegression, BalancesRowsAndPriors, ()) {
  constexpr std::size_t kFeatures = 3;
  statistics::LogisticRows rows(kFeatures);
  for (int row = pick(0, 60); row > 0; --row) {
    const std::array<float, kFeatures> features = {1, static_cast<float>(pick(-20, 20)) / 10,
                                                   static_cast<float>(pick(-20, 20)) / 10};
    rows.add(features, pick(0, 1) == 1, pick(-1, 1));
  }
  std::vector<statistics::CoefficientPrior> priors;
  for (std::size_t i = 0; i < kFeatures; ++i) priors.push_back({pick(-10, 10) / 10.0, pick(1, 50) / 10.0});
  const std::vector<double> fitted = statistics::fit_logistic(rows, priors);
  for (std::size_t i = 0; i < kFeatures; ++i) {
    double pull = 0;
    for (std::size_t row = 0; row < rows.size(); ++row) {
      double log_odds = rows.offset(row);
      for (std::size_t each = 0; each < kFeatures; ++each)
        log_odds += fitted[each] * static_cast<double>(rows.row(row)[each]);
      pull += ((rows.outcome(row) ? 1 : 0) - 1 / (1 + std::exp(-log_odds))) *
              static_cast<double>(rows.row(row)[i]);
    }
    RC_ASSERT(std::abs(pull - priors[i].precision * (fitted[i] - priors[i].mean)) < 1e-3);
  }
}

TEST(LogisticRegression, RecoversSimulatedCoefficients) {
  std::mt19937 random(1);
  const auto fraction = [&] { return static_cast<double>(random()) / 4294967296.0; };
  statistics::LogisticRows rows(2);
  for (int row = 0; row < 40'000; ++row) {
    const std::array<float, 2> features = {1, static_cast<float>(4 * fraction() - 2)};
    rows.add(features, fraction() < statistics::logistic(-1.5 + 0.8 * static_cast<double>(features[1])));
  }
  const std::array<statistics::CoefficientPrior, 2> priors = {{{0, 1}, {0, 1}}};
  const std::vector<double> fitted = statistics::fit_logistic(rows, priors);
  EXPECT_NEAR(fitted[0], -1.5, 0.05);
  EXPECT_NEAR(fitted[1], 0.8, 0.05);
}

TEST(LogisticRegression, OfExtremeLogOddsIsAProbability) {
  EXPECT_EQ(statistics::logistic(-800), 0);
  EXPECT_EQ(statistics::logistic(800), 1);
  EXPECT_EQ(statistics::logistic(0), 0.5);
}

}  // namespace
}  // namespace pear::test
