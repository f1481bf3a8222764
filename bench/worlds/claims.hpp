// What the questions claim of a simulated shop, compared with its truth.
#pragma once

#include <string>
#include <vector>

#include "worlds/world.hpp"

namespace pear::worlds {

/// One kind of claim, counted in one shop.
struct ClaimCount {
  std::string claim;  ///< "pairs", "directions", ...
  int wrong = 0;      ///< claims that the shop's truth does not contain
  int found = 0;      ///< planted effects that are claimed
};

/// Asks every question that makes a claim. Always the same claims, in the same order.
[[nodiscard]] std::vector<ClaimCount> count_claims(const World& world);

}  // namespace pear::worlds
