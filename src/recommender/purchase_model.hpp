// The fitted model of what customers are going to buy: all that the plan needs.
#pragma once

#include <cstdint>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "analysis/progress.hpp"
#include "daybook/daybook.hpp"
#include "recommender/landmarks.hpp"
#include "recommender/rates/baseline.hpp"
#include "recommender/rates/purchase_rates.hpp"
#include "recommender/rates/purchase_value.hpp"
#include "recommender/steps/step_model.hpp"

namespace pear::recommender {

/// The model as of a day: a baseline without any trigger (order rate x share of the category x share of the
/// product), and the uplift of steps.
struct PurchaseModel {
  Landmarks landmarks;
  analysis::CustomerGroups groups;
  Categories categories;
  OrderRate rate;         ///< without triggered purchases
  CategoryShares shares;  ///< without triggered purchases
  StepModel steps;
  PurchaseRates rates;
  PurchaseValue value;
  std::uint64_t pairs_tested = 0;  ///< for a step

  [[nodiscard]] std::size_t products() const { return categories.of_product.size(); }
};

constexpr std::uint64_t kPurchaseModelParts = 6;  ///< of the work, for its progress

/// Fits the model in this order: the order rate and shares of all purchases; the pairs that may be steps; the
/// significant ones, compared with that baseline; the order rate and shares without triggered purchases; and
/// the uplift of each step. `known` are the histories up to landmarks.as_of to which it is fitted. Only sales
/// up to that day are used from the daybook. On all threads; the same for any number of them.
[[nodiscard]] PurchaseModel fit_purchase_model(const daybook::Daybook& daybook,
                                               const mining::Histories& known, Landmarks landmarks,
                                               analysis::CustomerGroups groups, Categories categories,
                                               const analysis::Progress& progress = {});

}  // namespace pear::recommender
