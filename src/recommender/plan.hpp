// The plan: whom to offer what, under constraints.
#pragma once

#include <cstdint>
#include <vector>

#include "recommender/scorer.hpp"

namespace pear::recommender {

/// Offers by customer, best first. `planned` has 1 for customers to plan for. With a budget, the customers
/// with the largest expected uplift, which is what offers can cause; with stock, the offers with the largest
/// uplift get the available pieces, and the next best products replace those that are used up. O(customers x
/// products) on all threads; the same for any number of them.
[[nodiscard]] std::vector<Offer> make_plan(const OfferModel& model, const mining::Histories& known,
                                           const Constraints& constraints,
                                           const std::vector<std::uint8_t>& planned,
                                           const analysis::Progress& progress = {});

}  // namespace pear::recommender
