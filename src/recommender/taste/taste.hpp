// What kind of products customers like, and how regularly they buy them again.
#pragma once

#include "mining/purchase_histories.hpp"
#include "recommender/landmarks.hpp"
#include "recommender/taste/item_weights.hpp"
#include "recommender/taste/latent_classes.hpp"
#include "recommender/taste/product_trends.hpp"
#include "recommender/taste/repeat_purchases.hpp"

namespace pear::recommender {

struct Taste {
  LatentClasses classes;
  ItemWeights items;
  ProductTrends trends;
  RepeatPurchases repeats;

  /// Uses sales up to landmarks.as_of only.
  [[nodiscard]] static Taste fit(const mining::Histories& known, const Landmarks& landmarks,
                                 const analysis::CustomerGroups& groups) {
    return {LatentClasses::fit(known, groups), ItemWeights::fit(known), ProductTrends::fit(known, landmarks),
            RepeatPurchases::fit(known, landmarks.as_of.days)};
  }
};

}  // namespace pear::recommender
