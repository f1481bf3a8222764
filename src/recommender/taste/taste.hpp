// What kind of products customers like, and how regularly they buy them again.
#pragma once

#include <optional>
#include <utility>

#include <tbb/parallel_invoke.h>

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
    std::optional<LatentClasses> classes;
    std::optional<ItemWeights> items;
    std::optional<RepeatPurchases> repeats;
    tbb::parallel_invoke([&] { classes = LatentClasses::fit(known, groups); },
                         [&] { items = ItemWeights::fit(known); },
                         [&] { repeats = RepeatPurchases::fit(known, landmarks.as_of.days); });
    return {std::move(*classes), std::move(*items), ProductTrends::fit(known, landmarks),
            std::move(*repeats)};
  }
};

}  // namespace pear::recommender
