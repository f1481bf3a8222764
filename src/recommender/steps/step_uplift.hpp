// The uplift of each step, in addition to the baseline and to the other steps to the same product.
#pragma once

#include <cstdint>
#include <vector>

#include "recommender/steps/step_exposure.hpp"
#include "recommender/steps/step_tests.hpp"

namespace pear::recommender {

/// Exposures of one recency state to a step.
struct FittedCell {
  /// The exposures of one group.
  struct OfGroup {
    Observed observed;
    double uplift =
        0;  ///< the share who buy because of this step, among those who would not have bought without it
  };
  RecencyState recency;
  Observed observed;
  std::vector<OfGroup> groups;
};

struct FittedStep {
  std::uint32_t earlier = 0, later = 0;
  std::vector<FittedCell> cells;  ///< in order of the recency state; none for steps that are left out
};

/// Fits the uplift of the steps, in their order. The steps to one product are fitted one after another, first
/// the one with the largest lower bound of uplift. Of the purchases that follow a step, only those count that
/// earlier fitted steps do not explain: a customer who bought A and then B buys C because of B. This uses up
/// to 100,000 sampled customers. Then each step is fitted again with all customers, given the uplift
/// of the others (backfitting: Buja, Hastie and Tibshirani, Linear smoothers and additive models, Annals of
/// Statistics 17, 1989). At most eight steps to a product; others get no cells. Uplift is fitted by recency
/// state and group, each shrunk towards the state before it and the group towards all customers
/// (prior_weights.hpp): the mean of a gamma distribution of the ratio of observed to expected purchases
/// (DuMouchel, Bayesian data mining in large frequency tables, American Statistician 53, 1999). On all
/// threads; the same for any number of them.
[[nodiscard]] std::vector<FittedStep> fit_uplifts(const Baseline& base, const std::vector<Step>& steps);

}  // namespace pear::recommender
