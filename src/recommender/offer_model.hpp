// All that the plan needs: what customers are going to buy, and what they like.
#pragma once

#include "recommender/blend/blend.hpp"
#include "recommender/purchase_model.hpp"
#include "recommender/rates/repurchase_rates.hpp"
#include "recommender/taste/taste.hpp"

namespace pear::recommender {

struct OfferModel {
  PurchaseModel purchases;
  Taste taste;
  Blend blend;
  RepurchaseRates repurchases;
};

/// Fits the purchase model and the taste as of an earlier day, a horizon before landmarks.as_of, and from
/// what customers bought after it how much weight each part has; then both parts as of landmarks.as_of.
/// `known`, `groups` and so on are as in fit_purchase_model(). Where the data is too short for an earlier
/// day, the purchase model is used as it is.
[[nodiscard]] OfferModel fit_offer_model(const daybook::Daybook& daybook, const mining::Histories& known,
                                         Date first_day, const Landmarks& landmarks,
                                         const analysis::CustomerGroups& groups, const Categories& categories,
                                         const analysis::Progress& progress = {});

}  // namespace pear::recommender
