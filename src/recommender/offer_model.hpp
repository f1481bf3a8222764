// All that the plan needs: what customers are going to buy, and what they like.
#pragma once

#include <memory>
#include <mutex>
#include <utility>
#include <vector>

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

/// What is fitted to the histories up to a day.
struct FittedParts {
  PurchaseModel purchases;
  Taste taste;
};

/// The parts as of days for which they were fitted before: the folds of a backtest have days in common. Only
/// for the same daybook and horizon. Not for large shops, whose parts take much memory.
class KnownParts {
 public:
  /// Those of a day, fitted unless they are known for these groups. From any thread.
  template <class Fit>
  [[nodiscard]] std::shared_ptr<const FittedParts> at(Date day, const analysis::CustomerGroups& groups,
                                                      const Fit& fit) {
    if (auto known = find(day, groups)) return known;
    auto parts = std::make_shared<const FittedParts>(fit());
    const std::lock_guard lock(mutex_);
    parts_.emplace_back(day, parts);
    return parts;
  }

 private:
  [[nodiscard]] std::shared_ptr<const FittedParts> find(Date day, const analysis::CustomerGroups& groups) {
    const std::lock_guard lock(mutex_);
    for (const auto& [known_day, parts] : parts_)
      if (known_day == day && parts->purchases.groups.of_customer == groups.of_customer) return parts;
    return nullptr;
  }

  std::mutex mutex_;
  std::vector<std::pair<Date, std::shared_ptr<const FittedParts>>> parts_;
};

/// Fits the purchase model and the taste as of earlier days, each a horizon before the next, and from what
/// customers bought after them how much weight each part has; then both parts as of landmarks.as_of.
/// `known`, `groups` and so on are as in fit_purchase_model(). Where the data is too short for an earlier
/// day, the purchase model is used as it is. `parts` are kept for the next call.
[[nodiscard]] OfferModel fit_offer_model(const daybook::Daybook& daybook, const mining::Histories& known,
                                         Date first_day, const Landmarks& landmarks,
                                         const analysis::CustomerGroups& groups, const Categories& categories,
                                         const analysis::Progress& progress = {},
                                         KnownParts* parts = nullptr);

}  // namespace pear::recommender
